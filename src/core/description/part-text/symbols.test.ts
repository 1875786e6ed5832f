import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES } from '@/testing/families';
import { randomFrom, rounds } from '@/testing/random';
import { recipeOfLines, shapeText } from '@/testing/shape';
import { smallPart } from '@/testing/small-part';
import { compileDevice } from '../../device/compile/compile';
import { loadDevice } from '../../device/compile/load';
import { readDeviceFiles } from '../../import/compose/device-files';
import { completionsAt, isRenamable, occurrenceAt, renamed, symbolsOf, usesOf } from './symbols';

const SARN = readFileSync('devices/sarn-s9/recipe.part', 'utf8');
const at = (text: string, piece: string, within = 0): number => text.indexOf(piece) + within;

test('each name leads to where it is given, and from there to all its uses', () => {
  const symbols = symbolsOf(SARN);
  const use = occurrenceAt(symbols, at(SARN, 'PORT.OUT bit b', 6));
  expect(use).toMatchObject({ key: 'register PORT.OUT', name: 'OUT', defines: false });
  const definition = symbols.definitions.get('register PORT.OUT');
  expect(definition?.from).toBe(at(SARN, 'OUT  +0'));
  // Its own line, two registers that act on it, the field.
  expect(usesOf(symbols, 'register PORT.OUT').map(({ from }) => SARN.slice(from - 5, from + 3))).toHaveLength(
    4,
  );
  expect(usesOf(symbols, 'register BAR.HOLD')).toHaveLength(5);
  expect(usesOf(symbols, 'field src')).toHaveLength(2);
  expect(symbols.definitions.has('value pull.up')).toBe(true);
});

test('everywhere in the shipped texts: what is used is given, or is a thing of the tables', () => {
  for (const folder of FAMILIES) {
    const { occurrences, definitions } = symbolsOf(readFileSync(`devices/${folder}/recipe.part`, 'utf8'));
    const ofTables = new Set(['pad', 'signal', 'value']);
    const lost = occurrences.filter(({ key, role }) => !ofTables.has(role) && !definitions.has(key));
    expect([folder, lost.map(({ key }) => key).filter((key) => key !== 'setting line')]).toEqual([
      folder,
      [],
    ]);
    expect(occurrences.length).toBeGreaterThan(80);
  }
});

test('renamed, a text says the same of a thing with another name', () => {
  for (const round of rounds('names changed', { seconds: 4, least: 20 })) {
    const random = randomFrom(77_000 + round);
    const folder = random.pick(['pellin-p8', 'ostrel-n5', 'ketter-k2', 'velm-v3', 'brask-b14']);
    const text = readFileSync(`devices/${folder}/recipe.part`, 'utf8');
    const { definitions } = symbolsOf(text);
    const renamable = [...definitions.values()].filter(
      ({ role }) => role === 'block' || role === 'register' || role === 'field',
    );
    const chosen = random.pick(renamable);
    const apply = (of: string, from: number, name: string): string => {
      const changes = expectOk(renamed(of, from, name));
      return [...changes]
        .reverse()
        .reduce((all, change) => all.slice(0, change.from) + change.insert + all.slice(change.to), of);
    };
    const changed = apply(text, chosen.from, 'RENAMED_X');
    expect(changed).not.toBe(text);
    // A name that was left as it was leads nowhere, and is refused.
    const file = (name: string) => ({ name, text: readFileSync(`devices/${folder}/${name}`, 'utf8') });
    const read = readDeviceFiles(file('pinout.csv'), file('functions.csv'), {
      name: 'x.part',
      text: changed,
    });
    expect(loadDevice(expectOk(read)).ok).toBe(true);
    expect(apply(changed, changed.indexOf('RENAMED_X'), chosen.name)).toBe(text);
  }
});

test('every block, register, field and stage of the worked examples is renamed wherever it stands', () => {
  for (let shape = 1; shape <= 40; shape++) {
    const text = shapeText(shape);
    const { definitions } = symbolsOf(text);
    const names = [...definitions.values()].filter(isRenamable);
    expect(names.length).toBeGreaterThan(2);
    for (const { from, key } of names) {
      const changes = expectOk(renamed(text, from, 'RENAMED_X')).reverse();
      const changed = changes.reduce(
        (all, change) => all.slice(0, change.from) + change.insert + all.slice(change.to),
        text,
      );
      const loaded = compileDevice(smallPart(recipeOfLines('renamed', changed)));
      expect([shape, key, loaded.ok ? [] : loaded.problems]).toEqual([shape, key, []]);
    }
  }
});

test('what is used in the tables, too, is not renamed here', () => {
  const changes = renamed(SARN, at(SARN, 'class std', 6), 'plainer');
  expect(changes.ok ? '' : changes.problems[0]?.message).toMatch(/used where this text does not reach/);
});

test('a name that is taken, or is none, is refused', () => {
  const out = at(SARN, 'OUT  +0');
  const why = (name: string, place = out): string => {
    const changes = renamed(SARN, place, name);
    return changes.ok ? '' : (changes.problems[0]?.message ?? '');
  };
  expect(why('SEEN')).toBe('there is a register SEEN already');
  expect(why('9X')).toMatch(/is no name for a register/);
  expect(why('X', SARN.indexOf('"'))).toMatch(/no name stands here|is not given/);
});

test.each([
  ['a line', '|', ['block', 'field', 'stage', 'setting'], ['rw']],
  ['a line that has begun', 'bl|', ['block'], ['rw']],
  ['options of a register', '  OUT +0 :8, |', ['ro', 'follows', 'write when', 'reset'], ['block', 'per']],
  ['what follows', '  OUT +0 :8, follows |', ['HOLD', 'BAR.HOLD', 'this'], []],
  ['the register of a field', 'field x P|', ['PORT.OUT', 'PAD.CFG'], ['out']],
  ['what a field is from', 'field x PORT.OUT bit b, from |', ['mode', 'pull'], ['PORT.OUT', 'out']],
  ['the fields of a stage', 'stage s, writes |', ['src', 'joined'], ['mode', 'PORT']],
  ['the options of a stage', 'stage s, |', ['per', 'writes', 'why', 'in turn'], ['ro']],
  ['a setting in brackets', 'exclude (|', ['pull', 'mode'], ['ro']],
  ['notes', 'package q "q" quad 48, notes |', ['1', '2', '3'], ['pull']],
])('completion: %s', (_name, line, offered, others) => {
  const begun = `${SARN}\n${line.startsWith(' ') ? 'block BAR2 at 0\n' : ''}`.replace(
    'block BAR2',
    'block BAR',
  );
  const text = begun + line.replace('|', '');
  const labels =
    completionsAt(text, begun.length + line.indexOf('|'))?.options.map(({ label }) => label) ?? [];
  for (const each of offered) expect(labels).toContain(each);
  for (const each of others) expect(labels).not.toContain(each);
});

test('nothing is offered in a comment', () => {
  expect(completionsAt('# bl', 4)).toBeUndefined();
});
