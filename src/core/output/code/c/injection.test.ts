import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type CToken, cTokens, stringValue } from '@/testing/c-tokens';
import { expectOk } from '@/testing/expect-ok';
import { corvane, frostGuard } from '@/testing/frost-guard';
import { hostileText } from '@/testing/hostile-text';
import { randomFrom, rounds } from '@/testing/random';
import { derive } from '../../../derive/derive';
import { compileDevice } from '../../../device/compile/compile';
import type { Device } from '../../../device/device';
import type { Plan } from '../../../plan/model/types';
import { generateFiles } from '../../generate';
import { FACT_KINDS } from '../program/types';
import { cTarget } from './target';

/**
 * Whatever users write, wherever they can write it: outside of comments and strings the files are the same, token by token,
 * but for the names of nets, and a compiler takes them with all warnings as errors and trigraphs on.
 */
const STRICT = ['-std=c11', '-trigraphs', '-Wall', '-Wextra', '-Wconversion', '-pedantic', '-Werror'];
const demo = frostGuard();

/** Plan and part with each text replaced by what `text` gives. */
function rewritten(next: () => string): { plan: Plan; device: Device } {
  const { original } = corvane();
  const description = {
    ...original,
    name: next(),
    maker: next(),
    summary: next(),
    source: { document: next(), revision: next() },
    packages: original.packages.map((one) => ({ ...one, name: next() })),
    notes: Object.fromEntries(Object.keys(original.notes).map((key) => [key, next()])),
    pads: original.pads.map((pad) => (pad.boot ? { ...pad, boot: { ...pad.boot, note: next() } } : pad)),
    recipe: {
      ...original.recipe,
      stages: original.recipe.stages.map((stage) => ({ ...stage, title: next(), why: next() })),
      registers: {
        ...original.recipe.registers,
        blocks: original.recipe.registers.blocks.map((block) => ({
          ...block,
          registers: block.registers.map((register) => ({ ...register, title: next() })),
        })),
      },
    },
  };
  const plan: Plan = {
    ...demo,
    name: next(),
    revision: next(),
    circuits: demo.circuits.map((circuit) => ({ ...circuit, name: next() })),
    nets: demo.nets.map((net) => ({
      ...net,
      name: next(),
      note: next(),
      far: { part: next(), connector: next(), label: next() },
    })),
  };
  return { plan, device: expectOk(compileDevice(description)) };
}

/** Words that are named after nets and groups of them. */
const OF_NETS = new RegExp(`^(pins_\\w+|PINS_BIT_OF_\\w+|PINS_\\w+_(${FACT_KINDS.join('|')})(_\\d+)?)$`);

const tokensOf = (plan: Plan, device: Device): CToken[][] =>
  generateFiles(cTarget, expectOk(derive(device, plan))).map((file) => cTokens(file.text));

const plainly = rewritten(() => 'x');
const wanted = tokensOf({ ...plainly.plan, code: { ...demo.code, prefix: 'pins' } }, plainly.device);

function expectSame(found: CToken[], expected: CToken[], plan: Plan): void {
  expect(found.length).toBe(expected.length);
  const texts: string[] = [];
  found.forEach((token, index) => {
    const other = expected[index];
    if (token.kind === 'string') texts.push(token.text);
    const same =
      token.kind === other?.kind &&
      (token.text === other.text ||
        token.kind === 'string' ||
        (token.kind === 'word' && OF_NETS.test(token.text) && OF_NETS.test(other.text)));
    // Said for the first that differs only; a matcher for each of some million tokens would take minutes.
    if (!same) expect([plan.name, index, token]).toEqual([plan.name, index, other]);
  });
  if (texts.length === 3) {
    const whole = (text: string): string => new TextDecoder().decode(new TextEncoder().encode(text));
    expect(texts.slice(0, 2).map(stringValue)).toEqual([whole(plan.name), whole(plan.revision)]);
  }
}

test('hostile strings stay inside comments, strings and names, and compile', () => {
  const random = randomFrom(20261126);
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-injection-'));
  const sources: string[] = [];
  for (const turn of rounds('plans of hostile strings', { seconds: 8, least: 4 })) {
    const { plan, device } = rewritten(() => hostileText(random));
    const named = { ...plan, code: { ...plan.code, prefix: 'pins' } };
    const derived = expectOk(derive(device, named));
    const files = generateFiles(cTarget, derived);
    files.forEach((file, index) => {
      expectSame(cTokens(file.text), wanted[index] ?? [], named);
    });
    // In what the compiler gets each file has names of its own, so that it takes many at once; some have the plan's.
    const prefix = turn % 10 === 0 ? '' : `p${turn}`;
    const own = generateFiles(cTarget, { ...derived, plan: { ...plan, code: { ...plan.code, prefix } } });
    for (const { path, text } of own) {
      expect(path).toMatch(/^[a-z][a-z0-9_]{0,60}\.[ch]$/);
      if (prefix !== '') writeFileSync(join(folder, path), text);
      else
        writeFileSync(
          join(folder, path.replace(/^.*\./, `plan${turn}.`)),
          text.replace(/#include ".*"/, `#include "plan${turn}.h"`),
        );
    }
    sources.push(prefix === '' ? `plan${turn}.c` : `${prefix}.c`);
  }
  const together = sources.filter((path) => path.startsWith('p') && !path.startsWith('plan'));
  for (let start = 0; start < together.length; start += 100) {
    const all = together.slice(start, start + 100).map((path) => `#include "${path}"\n`);
    writeFileSync(join(folder, `all${start}.c`), all.join(''));
    sources.push(`all${start}.c`);
  }
  const compiled = sources.filter((path) => path.startsWith('all') || path.startsWith('plan'));
  expect(compiled.length).toBeGreaterThanOrEqual(2);
  const result = spawnSync('gcc', [...STRICT, '-fsyntax-only', ...compiled], {
    cwd: folder,
    encoding: 'utf8',
  });
  expect(`${result.stderr}${result.error ?? ''}`).toBe('');
  rmSync(folder, { recursive: true });
});
