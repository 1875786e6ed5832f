import type { BlockSource, RegisterSource } from '@/core/description/recipe';
import type { DeviceDescription, PadFunction } from '@/core/description/types';
import { type ClauseNames, clausesInC } from './second-clauses';

/**
 * A register machine in C, made from the text of a description alone. It is written apart from `src/core`: it reads the
 * description's expressions, expands its blocks and links its registers by code of its own, keeps bytes at addresses, and
 * starts from any state. What the core has misunderstood meets a second opinion here.
 */
export interface SecondMachine {
  /** C text: `reg_read`, `reg_write`, `let_pass`, `start`, and the tables they work on. */
  text: string;
  rows: Row[];
}

type Env = Record<string, number | undefined>;

/** Positions and values: worked out while they are read, without a tree. */
export function compute(text: string, env: Env): number {
  const words = text.match(/0[xX][0-9a-fA-F]+|0[bB][01]+|\d+|[A-Za-z_][\w.]*|<<|>>|[-+*/%&|()]/g) ?? [];
  let at = 0;
  const levels = [['|'], ['&'], ['<<', '>>'], ['+', '-'], ['*', '/', '%']];
  const factor = (): number => {
    const word = words[at++] ?? '';
    if (word === '(') {
      const inner = level(0);
      at++;
      return inner;
    }
    if (/^\d/.test(word)) return Number(word);
    const value = env[word];
    if (value === undefined) throw new Error(`"${word}" of "${text}" has no value`);
    return value;
  };
  const level = (depth: number): number => {
    if (depth === levels.length) return factor();
    let left = level(depth + 1);
    while (levels[depth]?.includes(words[at] ?? '')) {
      const sign = words[at++];
      const right = level(depth + 1);
      if (sign === '+') left += right;
      else if (sign === '-') left -= right;
      else if (sign === '*') left *= right;
      else if (sign === '/') left = Math.trunc(left / right);
      else if (sign === '%') left %= right;
      else if (sign === '<<') left *= 2 ** right;
      else if (sign === '>>') left = Math.floor(left / 2 ** right);
      else if (sign === '&') left = Number(BigInt(left) & BigInt(right));
      else left = Number(BigInt(left) | BigInt(right));
    }
    return left;
  };
  return level(0);
}

/** One place on the bus, or inside. */
export interface Row {
  name: string;
  /** Name without the index of an array and without the half. */
  block: string;
  id: string;
  copy: string;
  index: number;
  address: number;
  bits: number;
  access: string;
  reset: number;
  unknown: number;
  source: RegisterSource;
  /** What its bits show, each by a line of the description. */
  shown: { bit: number; from?: string; at: number; inverted: boolean; delay: number }[];
  /** What columns are where it stands, and its index as `i`. */
  env: Env;
  /** Bytes in the memory of the C program. */
  byte: number;
}

interface Copy {
  key: string;
  env: Env;
}

const columns = (prefix: string, from: Readonly<Record<string, number>> | undefined): Env =>
  Object.fromEntries(Object.entries(from ?? {}).map(([name, value]) => [`${prefix}.${name}`, value]));

/** What the variables are for a pad, and a function on it. */
export function padEnv(device: DeviceDescription, padId: string, fn?: PadFunction): Env {
  const pad = device.pads.find((one) => one.id === padId);
  const numbered = device.pads.filter((one) => one.port !== undefined);
  return {
    ...portEnv(device, pad?.port),
    b: pad?.bit,
    n: pad ? numbered.indexOf(pad) : undefined,
    ...columns('pad', pad?.columns),
    ...functionEnv(device, fn),
  };
}

const portEnv = (device: DeviceDescription, port: string | undefined): Env =>
  port === undefined
    ? {}
    : {
        p: Object.keys(device.recipe.ports).indexOf(port),
        ...columns('port', device.recipe.ports[port]),
      };

const functionEnv = (device: DeviceDescription, fn: PadFunction | undefined): Env =>
  fn
    ? {
        m: fn.mux ?? undefined,
        ...columns('fn', fn.columns),
        ...columns('signal', fn.columns),
        ...columns(
          'peripheral',
          device.peripherals.find((one) => one.id === fn.signal.split('.')[0])?.columns,
        ),
      }
    : {};

function copiesOf(device: DeviceDescription, block: BlockSource): Copy[] {
  const first = new Map<string, PadFunction>();
  switch (block.each) {
    case 'port':
      return Object.keys(device.recipe.ports)
        .map((port) => ({ key: port, env: portEnv(device, port) }))
        .filter(({ env }) => isThere(block.has, env));
    case 'pad':
      return device.pads
        .filter((pad) => pad.port !== undefined)
        .map((pad) => ({ key: pad.id, env: padEnv(device, pad.id) }))
        .filter(({ env }) => isThere(block.has, env));
    case 'signal':
    case 'peripheral': {
      for (const fn of device.functions) {
        const key = block.each === 'signal' ? fn.signal : (fn.signal.split('.')[0] ?? '');
        if (!first.has(key)) first.set(key, fn);
      }
      return [...first]
        .map(([key, fn]) => ({ key, env: functionEnv(device, fn) }))
        .filter(({ env }) => isThere(block.has, env));
    }
    default:
      return [{ key: '', env: {} }];
  }
}

/** Whether something is there: conditions joined by `or` and `and`, without parentheses; a name alone asks whether it has a value. */
export function isThere(text: string | undefined, env: Env): boolean {
  if (text === undefined) return true;
  const [first = '', ...others] = text.split(/\s+or\s+/);
  if (others.length > 0) return [first, ...others].some((one) => isThere(one, env));
  const parts = first.split(/\s+and\s+/);
  if (parts.length > 1) return parts.every((one) => isThere(one, env));
  const word = first.trim();
  if (word.startsWith('not ')) return !isThere(word.slice(4), env);
  const [, left = word, sign, right] = /^(.+?)\s*(!=|<=|>=|=|<|>)\s*(.+)$/.exec(word) ?? [];
  const names = word.match(/[A-Za-z_][\w.]*/g) ?? [];
  if (names.some((name) => env[name] === undefined)) return false;
  if (sign === undefined || right === undefined)
    return /^[A-Za-z_][\w.]*$/.test(word) || compute(left, env) !== 0;
  const [a, b] = [compute(left, env), compute(right, env)];
  return { '=': a === b, '!=': a !== b, '<': a < b, '>': a > b, '<=': a <= b, '>=': a >= b }[sign] === true;
}

/** What a line of `shows` says; a pad's level comes from outside. */
function shownBy(text: string, env: Env): Row['shown'][number] {
  const [, bit = '0', what = ''] = /^bit (.+?) = (.+)$/.exec(text) ?? [];
  const own = { bit: compute(bit, env), at: 0, inverted: false, delay: 0 };
  if (what.startsWith('pad')) return own;
  const [, from = '', at = '0', inverted, delay = '0'] =
    /^(?:(\w+) )?bit (\S+)( inverted)?(?: after (\w+) cycles)?$/.exec(what) ?? [];
  return {
    ...own,
    from,
    at: compute(at, env),
    inverted: inverted !== undefined,
    delay: delay === 'unknown' ? -1 : Number(delay),
  };
}

function resetOf(source: RegisterSource, copy: string, index: number): { value: number; unknown: number } {
  const given = source.reset ?? '0';
  const own = typeof given === 'string' ? given : (given[copy] ?? given['*'] ?? '0');
  const text = typeof own === 'string' ? own : (own[index] ?? '0');
  if (text === 'unknown') return { value: 0, unknown: 2 ** source.bits - 1 };
  const [value = '0', unknown = '0'] = text.split(' unknown in ');
  return { value: Number(value), unknown: Number(unknown) };
}

/** Every register of a part, expanded; those that the bus reaches in pieces as their pieces. */
export function expand(device: DeviceDescription): Row[] {
  const rows: Row[] = [];
  for (const block of device.recipe.registers.blocks) {
    for (const { key, env } of copiesOf(device, block)) {
      const prefix = (block.name ?? block.id).replace(/\{(port|pad|peripheral|signal)\}/g, key);
      for (const source of block.registers) {
        if (!isThere(source.has, env)) continue;
        for (let index = 0; index < (source.count ?? 1); index++) {
          const address = compute(block.base, env) + compute(source.offset, { ...env, i: index });
          const reset = resetOf(source, key, index);
          const whole: Row = {
            name: `${prefix.replace(/[^A-Za-z0-9_]+/g, '_')}.${source.id}${source.count ? index : ''}`,
            block: block.id,
            id: source.id,
            copy: key,
            index,
            address,
            bits: source.bits,
            access:
              source.read !== undefined || source.write !== undefined
                ? 'clauses'
                : (source.access ?? 'read-write'),
            reset: reset.value,
            unknown: reset.unknown,
            source,
            shown: (source.shows ?? []).map((one) => shownBy(one, env)),
            byte: 0,
            env: { ...env, i: index },
          };
          rows.push(...pieces(device, whole));
        }
      }
    }
  }
  placeBytes(rows);
  return rows;
}

function pieces(device: DeviceDescription, whole: Row): Row[] {
  const width = whole.source.accessedBy;
  if (width === undefined) return [whole];
  const count = whole.bits / width;
  return Array.from({ length: count }, (_, k) => {
    const cut = (value: number): number => Math.floor(value / 2 ** (k * width)) % 2 ** width;
    const place = device.recipe.endian === 'little' ? k : count - 1 - k;
    const suffix = count === 2 ? ['L', 'H'][k] : String(k);
    return {
      ...whole,
      name: `${whole.name}_${suffix}`,
      address: whole.address + (place * width) / 8,
      bits: width,
      reset: cut(whole.reset),
      unknown: cut(whole.unknown),
    };
  });
}

const HOLDS = /^(read-write|read|write|masked|internal)$/;

/** Bytes at one address are one byte, but for a place that is written there and another that is read there. */
function placeBytes(rows: Row[]): void {
  const bytes = new Map<string, number>();
  const kindsAt = new Map<number, Set<string>>();
  for (const row of rows) {
    if (!HOLDS.test(row.access) || row.access === 'internal') continue;
    for (let k = 0; k < Math.ceil(row.bits / 8); k++) {
      const kinds = kindsAt.get(row.address + k) ?? new Set();
      kindsAt.set(row.address + k, kinds.add(row.access));
    }
  }
  for (const row of rows) {
    const kinds = kindsAt.get(row.address) ?? new Set();
    const apart = kinds.size === 2 && kinds.has('read') && kinds.has('write');
    const bank =
      row.access === 'internal' || !HOLDS.test(row.access)
        ? row.name
        : apart && row.access === 'write'
          ? 'written'
          : '';
    for (let k = 0; k < Math.ceil(row.bits / 8); k++) {
      const key = `${bank} ${row.address + k}`;
      const byte = bytes.get(key) ?? bytes.size;
      bytes.set(key, byte);
      if (k === 0) row.byte = byte;
    }
  }
}

/** A register bit as a guard names it. */
function bitRef(text: string, env: Env): { block: string; id: string; bit: number; at: number } {
  const [, block = '', id = '', bit = '0', at = '1'] =
    /^\s*([A-Za-z_]\w*)\.([A-Za-z_]\w*)\s+bit\s+(.+?)(?:\s*=\s*([01]))?\s*$/.exec(text) ?? [];
  return { block, id, bit: compute(bit, env), at: Number(at) };
}

export function secondMachine(device: DeviceDescription): SecondMachine {
  const rows = expand(device);
  const find = (block: string, id: string, copy: string, index: number): Row[] => {
    const own = rows.filter((row) => row.block === block && row.id === id);
    const here = own.filter((row) => row.copy === copy || own.every((one) => one.copy === ''));
    const most = Math.max(0, ...here.map((row) => row.index));
    return here.filter((row) => row.index === Math.min(index, most));
  };
  const number = (row: Row | undefined): number => (row ? rows.indexOf(row) : -1);
  const beside = (row: Row, id: string | undefined): number =>
    id === undefined ? -1 : number(find(row.block, id, row.copy, row.index)[0]);

  const clauses = clausesInC(
    rows.flatMap((row, at) => {
      const { source } = row;
      const stated = [source.read, source.write, source.anyAccess, source.anyWrite, source.returnsTo];
      return stated.some((text) => text !== undefined)
        ? [{ at, row, names: namesFor(device, rows, row) }]
        : [];
    }),
  );
  const acts = rows.map(({ access, source }) => [
    access === 'clauses' && source.read === undefined ? 0 : 1,
    access === 'clauses' && source.write === undefined ? 0 : 1,
  ]);
  const guards: string[] = [];
  const guardsOf = rows.map((): number[] => []);
  for (const guard of device.recipe.registers.guards ?? []) {
    const block = device.recipe.registers.blocks.find((one) => one.id === guard.block);
    for (const { key, env } of block ? copiesOf(device, block) : []) {
      if (!isThere(guard.has, env)) continue;
      const ref = bitRef(guard.openWhen, env);
      let [shutting] = find(ref.block, ref.id, key, 0);
      let { bit } = ref;
      if (shutting?.source.accessedBy) {
        const width = shutting.bits;
        const parts = find(ref.block, ref.id, key, 0);
        shutting = parts[Math.floor(bit / width)];
        bit %= width;
      }
      guards.push(`{ ${number(shutting)}, ${bit}, ${ref.at}, ${guard.stops === 'writes' ? 0 : 1} }`);
      rows.forEach((row, position) => {
        if (row.block !== guard.block || row.copy !== key) return;
        if (guard.registers && !guard.registers.includes(row.id)) return;
        guardsOf[position]?.push(guards.length - 1);
      });
    }
  }
  const locksOf = rows.map((): number[] => []);
  const keys: string[] = [];
  const keyOf = rows.map(() => -1);
  rows.forEach((row, position) => {
    const [, values = '', opens = '', once, writes, unbroken] =
      /^key (.+?) opens (.+?)( once)?(?: for (\d+) writes)?( unbroken)?$/.exec(row.access) ?? [];
    if (values === '') return;
    const list = values.split(/\s+then\s+/).map(Number);
    keyOf[position] = keys.length;
    keys.push(
      `{ ${list.length}, ${once ? 1 : (writes ?? 0)}, ${unbroken ? 1 : 0}, { ${list.map((value) => `${value}u`).join(', ')} } }`,
    );
    for (const name of opens.split(/\s*,\s*/)) {
      const [block = '', id = ''] = name.includes('.') ? name.split('.') : [row.block, name];
      rows.forEach((other, at) => {
        if (other.block !== block || (id !== '*' && other.id !== id)) return;
        if (block === row.block && other.copy !== row.copy) return;
        locksOf[at]?.push(position);
      });
    }
  });

  const table = rows.map((row, position) => {
    const { source, access } = row;
    const [, alias = '', of, both = 'set'] =
      /^(set and clear|clear and set|set|clear|toggle|alias) of (\w+)(?:, both (\w+))?$/.exec(access) ?? [];
    const swapped = alias === 'clear and set' ? 1 : 0;
    const [, from, to] = /^act copies (\w+) to (\w+)$/.exec(access) ?? [];
    const kind =
      (swapped ? 'set and clear' : alias) || (to ? 'act' : access.startsWith('key ') ? 'key' : access);
    const [, followed, turned, delay = '0'] =
      source.follows && !source.follows.startsWith('pads')
        ? (/^(\w+)( inverted)?(?: after (\w+) cycles)?$/.exec(source.follows) ?? [])
        : [];
    const [, value = '0', mask = '0'] = /^(\w+) in (\w+)$/.exec(source.always ?? '') ?? [];
    const [, commit, first = '0', each = '1', opening = '1'] =
      /^(\w+)(?: from (\d+))?(?: by (\d+))?(?: = ([01]))?$/.exec(source.writableWhere ?? '') ?? [];
    const shownBits = row.shown.reduce((all, { bit }) => (all | (1 << bit)) >>> 0, 0);
    const list = (items: readonly number[] | undefined): string => `{ ${[...(items ?? []), -1].join(', ')} }`;
    const share = (text: string | undefined): number => {
      const width = source.accessedBy;
      const all = Number(text ?? 0);
      if (width === undefined) return all;
      const k = rows
        .filter((one) => one.source === source && one.copy === row.copy && one.index === row.index)
        .indexOf(row);
      return Math.floor(all / 2 ** (k * width)) % 2 ** width;
    };
    return `{ ${row.address}u, ${row.bits}, ${row.byte}, ${row.reset}u, ${row.unknown}u, K_${kind.replace(/[- ]/g, '_')}, ${beside(row, of ?? to)}, ${beside(row, from)}, ${beside(row, followed)}, ${delay === 'unknown' ? -1 : delay}, ${turned ? 1 : 0}, ${source.reset === undefined ? 0 : 1}, ${source.follows?.startsWith('pads') ? 1 : 0}, ${(share(source.readOnly) | shownBits) >>> 0}u, ${share(source.clearedByOne)}u, ${share(source.clearedByZero)}u, ${share(mask)}u, ${share(value)}u, ${beside(row, commit)}, ${each}, ${first}, ${opening}, ${swapped}, B_${both}, ${keyOf[position]}, ${list(guardsOf[position])}, ${list(locksOf[position])} }`;
  });
  const shows = rows.flatMap((row, position) =>
    row.shown.flatMap(({ bit, from, at, inverted, delay }) =>
      from === undefined
        ? []
        : [
            `{ ${position}, ${bit}, ${from === '' ? position : beside(row, from)}, ${at}, ${inverted ? 1 : 0}, ${delay} }`,
          ],
    ),
  );
  const most = (lists: number[][]): number => Math.max(0, ...lists.map((one) => one.length)) + 1;
  const bytes = Math.max(0, ...rows.map((row) => row.byte + Math.ceil(row.bits / 8))) + 1;
  const text = `
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
enum kind { K_read_write, K_read, K_write, K_set, K_clear, K_toggle, K_set_and_clear, K_alias, K_masked, K_internal, K_act, K_key, K_strobe, K_clauses };
static const struct { int by, bit, open_at, reads; } G[] = { ${[...guards, '{ -1, 0, 0, 0 }'].join(', ')} };
enum both { B_set, B_clear, B_toggle, B_keep };
static const struct { int count, writes, unbroken; uint32_t value[8]; } K[] = { ${[...keys, '{ 0, 0, 0, { 0 } }'].join(', ')} };
static const struct { int row, bit, of, at, inverted, delay; } S[] = { ${[...shows, '{ -1, 0, 0, 0, 0, 0 }'].join(', ')} };
enum { SHOWN = sizeof S / sizeof S[0] - 1 };
static const struct {
  uint32_t address; int bits, byte; uint32_t reset, unknown; enum kind kind; int target, from, follows, delay, inverted, stated, pads;
  uint32_t fixed, flags, zeros, always_mask, always_value; int commit, each, first, opening, swapped; enum both both; int key, guards[${most(guardsOf)}], locks[${most(locksOf)}];
} R[] = {
${table.join(',\n')}
};
enum { N = sizeof R / sizeof R[0] };
static const int acts[N][2] = { ${acts.map(([reads, writes]) => `{ ${reads}, ${writes} }`).join(', ')} };
static uint8_t memory[${bytes}];
static int seen[sizeof K / sizeof K[0]];
static long now, accesses, lost, refused, late;
static struct { long at; int row; uint32_t mask, value; } due[8192]; static int dues;
static uint32_t dice_state;
static uint32_t dice(void) { dice_state ^= dice_state << 13; dice_state ^= dice_state >> 17; dice_state ^= dice_state << 5; return dice_state; }
static uint32_t full(int row) { int b = R[row].kind == K_masked ? R[row].bits / 2 : R[row].bits; return b == 32 ? 0xFFFFFFFFu : (UINT32_C(1) << b) - 1u; }
static uint32_t look(int row) {
  uint32_t v = 0; int n = (R[row].bits + 7) / 8;
  for (int k = 0; k < n; k++) v |= (uint32_t)memory[R[row].byte + k] << 8 * (${device.recipe.endian === 'little' ? 'k' : 'n - 1 - k'});
  return v & full(row);
}
static void keep(int row, uint32_t v) {
  int n = (R[row].bits + 7) / 8;
  for (int k = 0; k < n; k++) memory[R[row].byte + k] = (uint8_t)(v >> 8 * (${device.recipe.endian === 'little' ? 'k' : 'n - 1 - k'}));
}
static void arrive(int row, uint32_t mask, uint32_t v) { keep(row, ((look(row) & ~mask) | (v & mask)) & full(row)); }
static void soon(int row, int delay, uint32_t mask, uint32_t v) {
  if (delay == 0) { arrive(row, mask, v); return; }
  due[dues].at = now + (delay < 0 ? 1 + (long)(dice() % 300) : delay); due[dues].row = row; due[dues].mask = mask; due[dues++].value = v;
}
static uint32_t followed(int f) { return R[f].inverted ? ~look(R[f].follows) : look(R[f].follows); }
static uint32_t shown(int s) { return ((look(S[s].of) >> S[s].at & 1u) ^ (uint32_t)S[s].inverted) << S[s].bit; }
static void follow_once(void) {
  static uint32_t before[N], bits[SHOWN + 1]; static int primed;
  for (int f = 0; f < N; f++) if (R[f].follows >= 0) {
    uint32_t v = followed(f);
    if (primed && v == before[f]) continue;
    before[f] = v;
    if (primed) soon(f, R[f].delay, 0xFFFFFFFFu, v);
  }
  for (int s = 0; s < SHOWN; s++) {
    uint32_t v = shown(s);
    if (primed && v == bits[s]) continue;
    bits[s] = v;
    if (primed) soon(S[s].row, S[s].delay, UINT32_C(1) << S[s].bit, v);
  }
  primed = 1;
}
/* What is shown at once may itself be shown. */
static void follow(void) { for (int round = 0; round < 4; round++) follow_once(); }
static void let_pass(uint32_t cycles) {
  while (cycles-- > 0) { now++; for (int i = 0; i < dues; i++) if (due[i].at == now) { arrive(due[i].row, due[i].mask, due[i].value); follow(); } }
}
static void all_back(void);
/* From reset (bits without a reset value by chance), or from any state by chance; what follows is at rest. */
static void start(uint32_t chance, int any) {
  dice_state = chance * 2654435761u + 88172645u; dues = 0; lost = refused = late = 0;
  for (int i = 0; i < N; i++) if (R[i].kind <= K_write || R[i].kind == K_masked || R[i].kind == K_internal || R[i].kind == K_clauses)
    keep(i, any ? dice() & full(i) : ((R[i].reset & ~R[i].unknown) | (dice() & R[i].unknown)) & full(i));
  /* What shows something may be shown itself: a few rounds, and all is at rest. */
  for (int round = 0; round < 4; round++) {
    for (int s = 0; s < SHOWN; s++) arrive(S[s].row, UINT32_C(1) << S[s].bit, shown(s));
    for (int i = 0; i < N; i++) if (R[i].follows >= 0) keep(i, any || !R[i].stated ? followed(i) & full(i) : look(i));
  }
  for (unsigned k = 0; k < sizeof K / sizeof K[0]; k++) seen[k] = any ? (int)(dice() % (unsigned)(K[k].count + (K[k].writes ? K[k].writes : 1))) : 0;
  follow(); dues = 0; all_back();
}
/* The place at an address, -1 where nothing is; of two there, one is written and the other read. */
static int at(uint32_t address, int bits, int writing) {
  int found = -1;
  for (int i = 0; i < N; i++) if (R[i].address == address && R[i].bits == bits && R[i].kind != K_internal)
    if (found < 0 || (writing ? R[found].kind == K_read || !acts[found][1] : R[i].kind == K_read || !acts[found][0])) found = i;
  return found;
}
static int shut(int row, int writing) {
  for (const int *g = R[row].guards; *g >= 0; g++)
    if (G[*g].by != row && (writing || G[*g].reads) && (int)(look(G[*g].by) >> G[*g].bit & 1u) != G[*g].open_at) return 1;
  return 0;
}
static int locked(int row) {
  for (const int *k = R[row].locks; *k >= 0; k++) if (seen[R[*k].key] < K[R[*k].key].count) return 1;
  return 0;
}
/* One access uses up a key once, however many of the registers at its address the key opens. */
static long used_in[sizeof K / sizeof K[0]];
static void one_less(int k) { if (used_in[k] == accesses) return; used_in[k] = accesses; if (K[k].writes && seen[k] >= K[k].count && ++seen[k] >= K[k].count + K[k].writes) seen[k] = 0; }
static void used_up(int row) { for (const int *k = R[row].locks; *k >= 0; k++) if (!K[R[*k].key].unbroken) one_less(R[*k].key); }
static void counted(int row) {
  for (unsigned k = 0; k < sizeof K / sizeof K[0]; k++) if (K[k].unbroken && R[row].key != (int)k) { if (seen[k] < K[k].count) seen[k] = 0; else one_less((int)k); }
}
/* Bits that take a write: not those that are read only, not committed, or shut by a guard within the register. */
static uint32_t takes(int row) {
  uint32_t mask = full(row) & ~R[row].fixed;
  int limit = R[row].commit == row ? R[row].first * R[row].each : R[row].bits;
  for (int b = 0; b < limit; b++)
    if (R[row].commit >= 0 && (int)(look(R[row].commit) >> (R[row].first + b / R[row].each) & 1u) != R[row].opening) mask &= ~(UINT32_C(1) << b);
  for (const int *g = R[row].guards; *g >= 0; g++)
    if (G[*g].by == row && (int)(look(row) >> G[*g].bit & 1u) != G[*g].open_at) mask &= UINT32_C(1) << G[*g].bit;
  return mask;
}
static void change(int row, uint32_t mask, uint32_t v, uint32_t through) {
  uint32_t held = look(row), wanted = mask & (held ^ v) & full(row);
  if ((wanted & ~through) != 0) refused++;
  keep(row, held ^ (wanted & through));
}
${clauses}
static uint32_t read_row(int i);
static uint32_t reg_read(uint32_t address, int bits) {
  int i = at(address, bits, 0); let_pass(1); accesses++;
  every_begin(0);
  uint32_t v = read_row(i);
  every_end(0); follow();
  return v;
}
static uint32_t read_row(int i) {
  if (i < 0 || shut(i, 0)) { lost++; return 0; }
  if (R[i].kind == K_clauses) {
    if (!acts[i][0]) { lost++; return 0; }
    uint32_t v = given_by(i) & full(i); done_by_read(i); return v;
  }
  switch (R[i].kind) {
    case K_key: case K_write: case K_act: case K_strobe: lost++; return 0;
    case K_set: case K_clear: case K_toggle: case K_set_and_clear: case K_alias: return look(R[i].target);
    default: return look(i);
  }
}
static void write_row(int i, uint32_t v) {
  int t = R[i].target >= 0 ? R[i].target : i;
  uint32_t through = takes(i), low = R[i].bits == 32 ? 0xFFFFu : 0xFFu;
  if (R[i].kind == K_read || R[i].kind == K_internal) { lost++; return; }
  if (R[i].kind == K_key) {
    int k = R[i].key;
    if (seen[k] < K[k].count && K[k].value[seen[k]] == v) seen[k]++;
    else seen[k] = K[k].value[0] == v;
    return;
  }
  if (R[i].kind == K_clauses) {
    if (locked(i) || !acts[i][1] || !met(i, v)) { lost++; return; }
    done_by_write(i, v); used_up(i); return;
  }
  if (locked(i) || locked(t) || (v & R[i].always_mask) != R[i].always_value) { lost++; return; }
  if (t != i) through &= takes(t);
  switch (R[i].kind) {
    case K_set: change(t, v, 0xFFFFFFFFu, through); break;
    case K_clear: change(t, v, 0, through); break;
    case K_toggle: change(t, v, ~look(t), through); break;
    case K_set_and_clear: {
      uint32_t a = v & low, b = v >> (R[i].bits / 2) & low, sets = R[i].swapped ? b : a, clears = R[i].swapped ? a : b, twice = a & b;
      change(t, clears & ~twice, 0, through); change(t, sets & ~twice, 0xFFFFFFFFu, through);
      if (R[i].both == B_set) change(t, twice, 0xFFFFFFFFu, through);
      if (R[i].both == B_clear) change(t, twice, 0, through);
      if (R[i].both == B_toggle) change(t, twice, ~look(t), through);
      break; }
    case K_alias: write_row(t, v); break;
    case K_act: change(t, v, look(R[i].from), through); break;
    case K_masked: change(i, v >> (R[i].bits / 2) & low, v, through); break;
    case K_strobe: break;
    default:
      /* Reserved bits are there for the write to be taken; nobody misses them. */
      change(i, full(i) & ~R[i].flags & ~R[i].zeros & ~R[i].fixed & ~R[i].always_mask, v, through);
      keep(i, (look(i) & ~(R[i].always_mask & through)) | (v & R[i].always_mask & through));
      change(i, (R[i].flags & v) | (R[i].zeros & ~v), 0, through);
  }
  used_up(i); if (t != i) used_up(t);
}
static void reg_write(uint32_t address, int bits, uint32_t v) {
  int i = at(address, bits, 1); let_pass(1); accesses++;
  every_begin(1);
  if (i < 0) { lost++; return; }
  if (shut(i, 1)) lost++; else write_row(i, v);
  /* Whatever else is at these bytes, and is no part of the same word, is written too; what it does not take is nobody's loss. */
  for (int j = 0; j < N; j++) {
    long first = (long)R[j].address - (long)address;
    if (j == i || R[j].kind == K_internal || R[j].kind == K_read || !acts[j][1] || first < 0 || first + R[j].bits / 8 > bits / 8) continue;
    if ((R[i].kind <= K_write || R[i].kind == K_masked) && (R[j].kind <= K_write || R[j].kind == K_masked)) continue;
    long before[2] = { lost, refused };
    uint32_t part = v >> 8 * (${device.recipe.endian === 'little' ? 'first' : 'bits / 8 - first - R[j].bits / 8'});
    if (R[j].bits < 32) part &= (UINT32_C(1) << R[j].bits) - 1u;
    if (!shut(j, 1)) write_row(j, part);
    lost = before[0]; refused = before[1];
  }
  counted(i);
  every_end(1);
  follow();
}
`;
  return { text, rows };
}

/** What names in the clauses of a row mean: columns, registers beside it, and those of other blocks. */
function namesFor(device: DeviceDescription, rows: readonly Row[], row: Row): ClauseNames {
  const { blocks } = device.recipe.registers;
  const copyOf = (block: string): string => {
    const each = blocks.find(({ id }) => id === block)?.each;
    if (block === row.block || each === undefined) return block === row.block ? row.copy : '';
    const pad = device.pads.find(({ id }) => id === row.copy);
    return (each === 'port' ? pad?.port : undefined) ?? row.copy;
  };
  return {
    numberOf: (name, each) =>
      row.env[name] ?? (each === undefined ? undefined : rows.find(({ copy }) => copy === each)?.env[name]),
    copiesOf: (block) => [...new Set(rows.filter((other) => other.block === block).map(({ copy }) => copy))],
    rowOf(name, each) {
      if (name === 'this') return rows.indexOf(row);
      const [, block = row.block, copy, id, element] =
        /^(?:(\w+)(?:\[([^\]]*)\])?\.)?(\w+)(?:\[(\w+)\])?$/.exec(name) ?? [];
      const wanted = copy === '*' ? each : (copy ?? copyOf(block));
      const array = rows.filter((other) => other.block === block && other.id === id && other.copy === wanted);
      const position =
        element === undefined ? Math.min(row.index, array.length - 1) : (row.env[element] ?? Number(element));
      const found = array[position];
      return found ? rows.indexOf(found) : -1;
    },
  };
}

/** The macros by which generated code meets the machine. */
export const machineMacros = (prefix: string): string =>
  [8, 16, 32]
    .map(
      (bits) => `#define ${prefix}_READ${bits}(a) ((uint${bits}_t)reg_read((a), ${bits}))
#define ${prefix}_WRITE${bits}(a, v) reg_write((a), ${bits}, (v))`,
    )
    .join('\n')
    .concat(`\n#define ${prefix}_WAIT(cycles) let_pass(cycles)\n`);
