import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Operation } from '@/core/derive/machine/operations';
import type { HeldValue } from '@/core/description/language/held-value';
import type { FieldPartSource } from '@/core/description/recipe';
import type { DeviceDescription, PadFunction } from '@/core/description/types';
import type { PlannedPad } from '@/core/device/planned-pad';
import { compute, isThere, padEnv, type Row, secondMachine } from './second-machine';

/** How a run is begun: from reset, or from a state by chance. */
export interface Beginning {
  chance: number;
  any: boolean;
}

/** Bits of a row, as the description's text has them. */
interface Bits {
  row: number;
  mask: number;
  value: number;
}

/**
 * Runs operations on the second machine and says whether they do what was planned, by the description's text alone: the
 * planned fields hold what the tables say, nothing else has changed, no access was lost. Compiled once for each part.
 */
export class SecondJudge {
  private readonly folder = mkdtempSync(join(tmpdir(), 'mavrek-judge-'));
  private readonly rows: Row[];
  /** Rows that statements of the recipe name, that follow others, or on which those act: they may change. */
  private readonly free: Set<number>;

  constructor(private readonly device: DeviceDescription) {
    const { text, rows } = secondMachine(device);
    this.rows = rows;
    writeFileSync(join(this.folder, 'judge.c'), `${text}${MAIN}`);
    execFileSync('gcc', ['-std=c11', '-O1', 'judge.c', '-o', 'judge'], { cwd: this.folder });
    this.free = this.freeRows();
  }

  close(): void {
    rmSync(this.folder, { recursive: true });
  }

  private freeRows(): Set<number> {
    const steps = this.device.recipe.stages.flatMap((stage) => [
      ...(stage.beforeEach ?? []),
      ...(stage.afterEach ?? []),
      ...(stage.do ?? []),
      ...(stage.after ?? []),
    ]);
    const named = new Set(
      steps.flatMap(
        (text) => text.match(/[A-Za-z_]\w*\.[A-Za-z_]\w*(?=(?:\[[^\]]*\])?\s*(?:bits?\b|:=))/g) ?? [],
      ),
    );
    // What was read and is the last thing written back must be as it was.
    for (const text of steps) {
      const [, name, row = ''] = /^let (\w+) = (\S+)$/.exec(text) ?? [];
      if (steps.findLast((step) => step.startsWith(`${row} `)) === `${row} := ${name}`) named.delete(row);
    }
    const free = new Set<number>();
    // Hidden state in which no field lies is bookkeeping of the hardware.
    const placed = new Set(
      Object.values(this.device.recipe.fields).flatMap((field) =>
        (field.parts ?? [field]).flatMap((part) => [part.in, field.through]),
      ),
    );
    this.rows.forEach((row, index) => {
      if (row.access === 'internal' && !placed.has(`${row.block}.${row.id}`)) free.add(index);
      if (row.source.follows) free.add(index);
      if (!named.has(`${row.block}.${row.id}`)) return;
      free.add(index);
      const [, target] =
        /^(?:set|clear|toggle|set and clear|clear and set|alias) of (\w+)(?:, both \w+)?$/.exec(row.access) ??
        [];
      this.rows.forEach((other, at) => {
        if (other.block === row.block && other.copy === row.copy && other.id === target) free.add(at);
      });
    });
    return free;
  }

  /** For each case whether all went as planned (for all, or for this case), from each of its beginnings. */
  judge(
    planned: readonly PlannedPad[],
    cases: readonly {
      operations: readonly Operation[];
      beginnings: readonly Beginning[];
      planned?: readonly PlannedPad[];
    }[],
  ): boolean[] {
    const ofAll = planned.flatMap((one) => this.fieldsOf(one));
    const wanted = cases.map((each) => each.planned?.flatMap((one) => this.fieldsOf(one)) ?? ofAll);
    const asked = new Set([ofAll, ...wanted].flatMap((bits) => bits.map(({ row }) => row)));
    const commands: string[] = [...asked].map((row) => `I ${row}`);
    for (const { operations, beginnings } of cases) {
      for (const { chance, any } of beginnings) {
        commands.push(`S ${chance} ${any ? 1 : 0}`, ...operations.flatMap(commandsFor), 'P');
      }
      commands.push('E');
    }
    const { stdout, status } = spawnSync('./judge', {
      cwd: this.folder,
      input: `${commands.join('\n')}\n`,
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    });
    const results = stdout.split('E\n').slice(0, -1);
    if (status !== 0 || results.length !== cases.length)
      throw new Error(`the second machine stopped: ${stdout.slice(-200)}`);
    return results.map((text, at) =>
      text
        .split('P\n')
        .slice(0, -1)
        .every((run) => this.isRight(run, wanted[at] ?? [])),
    );
  }

  /** What each row holds before and after operations, by name, and whether the machine lost or refused anything. */
  outcomes(
    operations: readonly Operation[],
    beginnings: readonly Beginning[],
  ): { lost: boolean; before: Map<string, number>; after: Map<string, number> }[] {
    const commands = this.rows.map((_row, at) => `I ${at}`);
    for (const { chance, any } of beginnings)
      commands.push(`S ${chance} ${any ? 1 : 0}`, ...operations.flatMap(commandsFor), 'P');
    const { stdout, status } = spawnSync('./judge', {
      cwd: this.folder,
      input: `${commands.join('\n')}\n`,
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    });
    const runs = stdout.split('P\n').slice(0, -1);
    if (status !== 0 || runs.length !== beginnings.length) throw new Error('the second machine stopped');
    return runs.map((run) => {
      const before = new Map<string, number>();
      const after = new Map<string, number>();
      let lost = false;
      for (const line of run.split('\n')) {
        const [, row = 0, from = 0, to = 0] = line.split(' ').map(Number);
        if (line.startsWith('L')) lost = row + from + to > 0;
        if (!line.startsWith('C')) continue;
        before.set(this.rows[row]?.name ?? '', from);
        after.set(this.rows[row]?.name ?? '', to);
      }
      return { lost, before, after };
    });
  }

  private isRight(run: string, wanted: readonly Bits[]): boolean {
    const planned = new Map<number, number>();
    for (const { row, mask } of wanted) planned.set(row, ((planned.get(row) ?? 0) | mask) >>> 0);
    const ends = new Map<number, number>();
    for (const line of run.split('\n')) {
      const words = line.split(' ').map(Number);
      if (line.startsWith('L') && words.slice(1).some((count) => count > 0)) return false;
      if (!line.startsWith('C')) continue;
      const [, row = 0, before = 0, now = 0] = words;
      ends.set(row, now);
      const always = Number(/ in (\w+)$/.exec(this.rows[row]?.source.always ?? '')?.[1] ?? 0);
      const shown = this.rows[row]?.shown.reduce((all, { bit }) => (all | (1 << bit)) >>> 0, 0) ?? 0;
      const stray = ((before ^ now) & ~(planned.get(row) ?? 0) & ~always & ~shown) >>> 0;
      if (stray !== 0 && !this.free.has(row)) return false;
    }
    return wanted.every(({ row, mask, value }) => (((ends.get(row) ?? 0) ^ value) & mask) === 0);
  }

  /** The bits that a planned pad's fields shall hold: where they take effect, and where they are written. */
  private fieldsOf({ pad, fn, settings }: PlannedPad): Bits[] {
    const { recipe, peripheralKinds, peripherals } = this.device;
    const [instance = '', line = ''] = fn?.signal.split('.') ?? [];
    const kind = peripherals.find((one) => one.id === instance)?.kind ?? '';
    const direction = fn ? (peripheralKinds[kind]?.lines[line]?.direction ?? 'none') : 'none';
    const env = padEnv(this.device, pad.id, fn);
    return recipe.encode.flatMap(({ field, from, table }): Bits[] => {
      if (!isThere(recipe.fields[field]?.has, env)) return [];
      const words = from.map((key) =>
        key === 'line' ? (settings.values.mode === 'function' ? direction : 'none') : settings.values[key],
      );
      const row = Object.entries(table).find(([pattern]) => {
        const wanted = pattern.trim() === '*' ? words.map(() => '*') : pattern.trim().split(/\s+/);
        return wanted.every((word, k) => word === '*' || word.split('|').includes(words[k] ?? ''));
      });
      if (!row || row[1] === 'keep') return [];
      const value = compute(String(row[1]), env);
      const source = recipe.fields[field];
      const parts: FieldPartSource[] = source?.parts ?? [source as FieldPartSource];
      const bits: Bits[] = [];
      let shift = 0;
      for (const part of parts) {
        const width = compute(String(part.bits), env);
        const share = Math.floor(value / 2 ** shift) % 2 ** width;
        shift += width;
        for (const name of [part.in, ...(source?.through ? [source.through] : [])])
          bits.push(...this.placed(name, part, share, pad.id, pad.port, fn, env));
      }
      return bits;
    });
  }

  private placed(
    name: string,
    part: FieldPartSource,
    value: number,
    pad: string,
    port: string | undefined,
    fn: PadFunction | undefined,
    env: ReturnType<typeof padEnv>,
  ): Bits[] {
    const [block = '', id = ''] = name.split('.');
    const source = this.device.recipe.registers.blocks.find((one) => one.id === block);
    const register = source?.registers.find((one) => one.id === id);
    const copies = {
      port: port ?? '',
      pad,
      signal: fn?.signal ?? '',
      peripheral: fn?.signal.split('.')[0] ?? '',
      none: '',
    };
    const copy = copies[source?.each ?? 'none'];
    const needs = /(^|\W)(m|fn\.|signal\.|peripheral\.)/.test(`${part.at} ${register?.index ?? ''}`);
    if (needs && (fn?.mux ?? null) === null) return [];
    const index = register?.index ? compute(register.index, env) : 0;
    const places = this.rows.flatMap((row, at) =>
      row.block === block && row.id === id && row.copy === copy && row.index === index ? [at] : [],
    );
    const low = places.length > 0 ? compute(part.at, env) : 0;
    const found: Bits[] = [];
    const bits = places.length > 0 ? compute(String(part.bits), env) : 0;
    for (let bit = 0; bit < bits; bit++) {
      const width = this.rows[places[0] ?? 0]?.bits ?? 32;
      const row = places[Math.floor((low + bit) / width)];
      if (row === undefined) continue;
      const mask = (1 << ((low + bit) % width)) >>> 0;
      found.push({ row, mask, value: Math.floor(value / 2 ** bit) % 2 === 1 ? mask : 0 });
    }
    return found;
  }
}

/** A value of what was held, for a stack. */
function postfix(value: HeldValue): string[] {
  switch (value.kind) {
    case 'number':
      return [`n ${value.value}`];
    case 'held':
      return [`h ${value.id}`];
    case 'not':
      return [...postfix(value.of), '~'];
    case 'shift':
      return [...postfix(value.of), value.by > 0 ? `l ${value.by}` : `r ${-value.by}`];
    case 'bits':
      return [...postfix(value.left), ...postfix(value.right), value.operator];
  }
}

const commandsFor = (operation: Operation): string[] => {
  switch (operation.kind) {
    case 'wait':
      return [`T ${operation.cycles}`];
    case 'await': {
      const { register, mask, value, cycles } = operation;
      return [`A ${register.address} ${register.bits} ${mask} ${value} ${cycles}`];
    }
    case 'write':
      return [`W ${operation.register.address} ${operation.register.bits} ${operation.value >>> 0}`];
    case 'update': {
      const { register, clear, set } = operation;
      const ones = (set | (register.zeroFlagMask & ~clear)) >>> 0;
      return [`U ${register.address} ${register.bits} ${(clear | register.flagMask) >>> 0} ${ones}`];
    }
    case 'read': {
      const { register, holds } = operation;
      return [`H ${register.address} ${register.bits} ${holds ?? 0}`];
    }
    case 'write held': {
      const { register, value } = operation;
      return [`X ${register.address} ${register.bits} ${postfix(value).join(' ')} .`];
    }
    case 'flip':
      return [`F ${operation.register.address} ${operation.register.bits} ${operation.mask >>> 0}`];
  }
};

const MAIN = `
int main(void) {
  static uint32_t before[N], held[65536]; static int asked[N];
  char what; unsigned long a, b, c, d, e;
  while (scanf(" %c", &what) == 1) switch (what) {
    case 'I': if (scanf("%lu", &a) != 1) return 1; asked[a] = 1; break;
    case 'S': if (scanf("%lu %lu", &a, &b) != 2) return 1;
      start((uint32_t)a, (int)b); for (int i = 0; i < N; i++) before[i] = look(i); break;
    case 'T': if (scanf("%lu", &a) != 1) return 1; let_pass((uint32_t)a); break;
    case 'W': if (scanf("%lu %lu %lu", &a, &b, &c) != 3) return 1; reg_write((uint32_t)a, (int)b, (uint32_t)c); break;
    case 'U': if (scanf("%lu %lu %lu %lu", &a, &b, &c, &d) != 4) return 1;
      reg_write((uint32_t)a, (int)b, (reg_read((uint32_t)a, (int)b) & ~(uint32_t)c) | (uint32_t)d); break;
    case 'F': if (scanf("%lu %lu %lu", &a, &b, &c) != 3) return 1;
      reg_write((uint32_t)a, (int)b, reg_read((uint32_t)a, (int)b) ^ (uint32_t)c); break;
    case 'A': if (scanf("%lu %lu %lu %lu %lu", &a, &b, &c, &d, &e) != 5) return 1;
      for (unsigned long n = 0; ; n++) { if ((reg_read((uint32_t)a, (int)b) & c) == d) break; if (n == e) { late++; break; } } break;
    case 'H': if (scanf("%lu %lu %lu", &a, &b, &c) != 3 || c >= 65536) return 1; held[c] = reg_read((uint32_t)a, (int)b); break;
    case 'X': { uint32_t stack[64]; int top = 0; if (scanf("%lu %lu", &a, &b) != 2) return 1;
      for (;;) { if (scanf(" %c", &what) != 1) return 1; if (what == '.') break;
        if (top > 60) return 1;
        switch (what) {
          case 'n': if (scanf("%lu", &c) != 1) return 1; stack[top++] = (uint32_t)c; break;
          case 'h': if (scanf("%lu", &c) != 1) return 1; stack[top++] = held[c]; break;
          case '~': stack[top - 1] = ~stack[top - 1]; break;
          case 'l': if (scanf("%lu", &c) != 1) return 1; stack[top - 1] <<= c; break;
          case 'r': if (scanf("%lu", &c) != 1) return 1; stack[top - 1] >>= c; break;
          case '&': top--; stack[top - 1] &= stack[top]; break;
          case '|': top--; stack[top - 1] |= stack[top]; break;
          case '^': top--; stack[top - 1] ^= stack[top]; break;
        } }
      reg_write((uint32_t)a, (int)b, (int)b == 32 ? stack[0] : stack[0] & (((uint32_t)1 << b) - 1)); break; }
    case 'P': let_pass(1000); printf("L %ld %ld %ld\\n", lost, refused, late);
      for (int i = 0; i < N; i++) if (asked[i] || look(i) != before[i]) printf("C %d %lu %lu\\n", i, (unsigned long)before[i], (unsigned long)look(i));
      printf("P\\n"); break;
    case 'E': printf("E\\n"); break;
  }
  return 0;
}
`;
