import { readFileSync } from 'node:fs';
import { FAMILIES, family } from '@/testing/families';
import { randomFrom, rounds, share } from '@/testing/random';
import { readDeviceFiles } from '../import/compose/device-files';
import { recipeFileOf } from '../import/compose/print-tables';
import { loadDevice } from './compile/load';

/**
 * A misspelt name never takes something out of a part in silence: each name in the shipped recipes, one at a time with a letter more,
 * is refused. All of them with `./mavrek test --all`, as many as fit into some seconds otherwise.
 */

/** Keys whose values are text for people, or names that nothing else refers to. */
const FREE =
  /^(title|why|says|document|revision|note|notes|summary|name|maker|comment|source|names|include|left out|cpu|id)$/;
/** Words of the language of registers' `access`, `follows` and `shows`; a misspelt one is no name. */
const WORDS = new Set(
  'bit in of set clear and to from by is read write unknown alias toggle act copies key opens once then strobe masked internal inverted after cycles pads all'.split(
    ' ',
  ),
);
/** Renamed, they are lines of a kind that no signal uses, or a part of a word of which the rest says what it is. */
const HARMLESS = /^peripheralKinds\/[^/]+\/lines$/;

interface Change {
  place: string;
  /** Makes the change, and gives back what undoes it. */
  make(): () => void;
}

function changesOf(node: unknown, path: readonly string[], set: (value: unknown) => void): Change[] {
  if (typeof node === 'string')
    return [...node.matchAll(/[A-Za-z_][A-Za-z0-9_]*/g)].flatMap((match) => {
      const [word] = match;
      const at = match.index ?? 0;
      // Digits of a hexadecimal number.
      if (WORDS.has(word) || /0$/.test(node.slice(0, at))) return [];
      const to = `${node.slice(0, at)}${word}q${node.slice(at + word.length)}`;
      return [
        {
          place: `${path.join('/')}: ${node} → ${to}`,
          make() {
            set(to);
            return () => set(node);
          },
        },
      ];
    });
  if (Array.isArray(node))
    return node.flatMap((item, at) =>
      changesOf(item, [...path, String(at)], (value) => {
        node[at] = value;
      }),
    );
  if (typeof node !== 'object' || node === null) return [];
  const record = node as Record<string, unknown>;
  return Object.keys(record).flatMap((key) => {
    if (FREE.test(key)) return [];
    const renamed: Change = {
      place: `${path.join('/')}: the key ${key}`,
      make() {
        const entries = Object.entries(record);
        for (const [each] of entries) delete record[each];
        for (const [each, value] of entries) record[each === key ? `${key}q` : each] = value;
        return () => {
          for (const each of Object.keys(record)) delete record[each];
          for (const [each, value] of entries) record[each] = value;
        };
      },
    };
    const renames = HARMLESS.test(path.join('/')) || key === '*' ? [] : [renamed];
    return [
      ...renames,
      ...changesOf(record[key], [...path, key], (value) => {
        record[key] = value;
      }),
    ];
  });
}

test('a misspelt name in a recipe is refused', () => {
  const random = randomFrom(26);
  const parts = share(FAMILIES, 4, 2).map((folder) => {
    const file = (name: string) => ({
      name: `${folder}/${name}`,
      text: readFileSync(`devices/${folder}/${name}`, 'utf8'),
    });
    const recipe = JSON.parse(JSON.stringify(recipeFileOf(family(folder).original))) as Record<
      string,
      unknown
    >;
    const { device: _texts, format: _format, ...named } = recipe;
    const loads = (): boolean => {
      const text = JSON.stringify(recipe);
      const description = readDeviceFiles(file('pinout.csv'), file('functions.csv'), { name: 'r', text });
      return description.ok && loadDevice(description.value).ok;
    };
    const changes = Object.keys(named).flatMap((key) =>
      FREE.test(key)
        ? []
        : changesOf(recipe[key], [key], (value) => {
            recipe[key] = value;
          }),
    );
    return { folder, loads, changes };
  });
  const accepted: string[] = [];
  const judge = ({ folder, loads }: (typeof parts)[number], { place, make }: Change): void => {
    const undo = make();
    if (loads()) accepted.push(`${folder}: ${place}`);
    undo();
  };
  for (const part of parts) expect([part.folder, part.loads()]).toEqual([part.folder, true]);
  if (process.env.MAVREK_ALL === '1')
    for (const part of parts) for (const change of part.changes) judge(part, change);
  else
    for (const _round of rounds('misspelt names', { seconds: 10, least: 20 })) {
      const part = random.pick(parts);
      judge(part, random.pick(part.changes));
    }
  expect(accepted).toEqual([]);
}, 3_600_000);
