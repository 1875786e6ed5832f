import { append } from '../../../base/lists';
import type { Derived } from '../../../derive/derive';
import { fullMask, type Register } from '../../../device/registers/types';
import { initialisationWords } from '../identity';
import { programOf } from '../program/program';
import type { ProgramStep, Statement, Value, Width } from '../program/types';
import {
  block,
  hookCall,
  identityComment,
  printInterrupts,
  routineComment,
  routinePrototype,
} from './common';
import type { CNames } from './names';
import { linesOf, opening, printDone, variables } from './source';
import { widthType } from './types';
import {
  type CCode,
  c,
  comment,
  decimal,
  fileText,
  hexLiteral,
  indented,
  join,
  stringLiteral,
  wrappedComment,
} from './writer';

/** A row of the table. Each begins with a byte that says what follows, see {@link HOW}. */
type Row =
  | { kind: 'change'; register: Register; reads: boolean; keep?: number; set?: number }
  | { kind: 'await'; register: Register; mask: number; value: number; tries: number }
  | { kind: 'wait'; cycles: number };

/**
 * Bits of a row's first byte. The lowest two say how wide the register is: 0 for 8 bits, 1 for 16, 2 for 32; 3 for a row that waits. A row
 * that keeps bits without reading any waits for them. The highest three are the number of the base that the address counts from.
 */
const HOW = { waits: 0x03, reads: 0x04, keeps: 0x08, sets: 0x10 };
const WIDTH_CODE = { 8: 0, 16: 1, 32: 2 };
const BASE_SHIFT = 5;
const MOST_BASES = 8;

/** A step as rows; undefined where it is not what rows can say, and is then printed as statements. */
function rowsOf({ statements }: ProgramStep): Row[] | undefined {
  const rows = statements.map(rowOf);
  return rows.every((row) => row !== undefined) ? rows : undefined;
}

function rowOf(one: Statement): Row | undefined {
  if (one.kind === 'wait') return { kind: 'wait', cycles: one.cycles };
  if (one.kind === 'await' && one.late === 'leave') return one;
  if (one.kind !== 'write') return undefined;
  const { register, value } = one;
  if (value.kind === 'constant') return { kind: 'change', register, reads: false, set: value.value };
  const changed = changeOf(value, register);
  return changed && { kind: 'change', register, reads: true, ...changed };
}

/** `read`, `read & keep`, `read | set`, `(read & keep) | set` of one register. */
function changeOf(value: Value, register: Register): { keep?: number; set?: number } | undefined {
  if (value.kind === 'read') return value.register === register ? {} : undefined;
  if (value.kind !== 'both' || value.right.kind !== 'constant') return undefined;
  const inner = changeOf(value.left, register);
  if (!inner || inner.set !== undefined) return undefined;
  if (value.sign === '|') return { ...inner, set: value.right.value };
  return value.sign === '&' && inner.keep === undefined ? { keep: value.right.value } : undefined;
}

interface Part {
  step: ProgramStep;
  rows: Row[] | undefined;
}

/** The source file with a table instead of statements, and on which line each operation begins. */
export function printTableSource(derived: Derived, names: CNames): { text: CCode; operations: number[] } {
  const program = programOf(derived);
  const routines = program.routines.map((one) => ({ one, parts: partsOf(one.steps) }));
  const init = partsOf(program.calls ? [] : program.steps);
  // Rows in the order of the functions that use them.
  const parts = [...routines.flatMap((one) => one.parts), ...init];
  const rows = parts.flatMap((part) => part.rows ?? []);
  const own = layoutOf(rows);
  const head = [
    ...identityComment(derived, `${names.file}.c`, `table of ${initialisationWords(derived)}`),
    c`#include ${stringLiteral(`${names.file}.h`)}`,
    c``,
    ...variables(program, names, 'source'),
    ...(rows.length > 0 ? printRowMacros(names, own) : []),
  ];
  const lines: CCode[] = [];
  const begins = new Map<ProgramStep, number>();
  if (rows.length > 0) {
    lines.push(c``, c`static uint8_t const ${names.own('table')}[] = {`);
    for (const { step, rows: mine } of parts) {
      if (!mine) continue;
      if (step.stage !== undefined) lines.push(indented(comment(step.stage)));
      begins.set(step, lines.length);
      if (step.about !== undefined) append(lines, wrappedComment(step.about, 88).map(indented));
      append(
        lines,
        mine.map((row) => indented(c`${printRow(names, row, own)},`)),
      );
    }
    lines.push(c`};`, c``, ...printRun(names, own));
  }
  let offset = 0;
  const run = (list: readonly Part[], late: CCode): void => {
    for (const segment of segmentsOf(list)) {
      append(lines, hookCall(names, 'BEFORE', segment.begins));
      if (segment.rows.length > 0) {
        const from = c`${names.own('table')} + ${decimal(offset)}`;
        offset += segment.rows.reduce((sum, row) => sum + bytesOf(row, own), 0);
        lines.push(
          c`    if (!${names.own('run')}(${from}, ${names.own('table')} + ${decimal(offset)})) { ${late} }`,
        );
      } else {
        for (const step of segment.steps) {
          begins.set(step, lines.length);
          if (step.about !== undefined) append(lines, wrappedComment(step.about, 88).map(indented));
          append(lines, block(step.statements, names, late));
        }
      }
      append(lines, hookCall(names, 'AFTER', segment.ends));
    }
  };
  for (const { one, parts: list } of routines) {
    lines.push(c``, ...routineComment(one), routinePrototype(names, one), c`{`);
    run(list, c`return false;`);
    lines.push(c`    return true;`, c`}`);
  }
  lines.push(c``, c`void ${names.own('init')}(void)`, c`{`, ...opening(names, program));
  for (const one of program.calls ?? []) lines.push(c`    if (!${names.routine(one)}()) { return; }`);
  run(init, c`return;`);
  lines.push(
    c`    ${names.own('done')} = true;`,
    c`}`,
    ...printDone(names, 'source'),
    ...printInterrupts(names, program, 'source'),
  );
  return { text: fileText([...head, ...lines]), operations: linesOf(program, begins, head.length) };
}

const partsOf = (steps: readonly ProgramStep[]): Part[] =>
  steps.map((step) => ({ step, rows: rowsOf(step) }));

interface Segment {
  /** None for steps that are statements. */
  rows: Row[];
  steps: ProgramStep[];
  /** Stages around which own code is called. */
  begins?: string;
  ends?: string;
}

/** What lies between two changes from table to statements, and between two calls of own code. */
function segmentsOf(parts: readonly Part[]): Segment[] {
  const segments: { tabled: boolean; parts: Part[] }[] = [];
  for (const part of parts) {
    const last = segments.at(-1);
    const goesOn =
      last?.tabled === (part.rows !== undefined) &&
      part.step.begins === undefined &&
      last.parts.at(-1)?.step.ends === undefined;
    if (last && goesOn) last.parts.push(part);
    else segments.push({ tabled: part.rows !== undefined, parts: [part] });
  }
  return segments.map(({ parts: own }) => {
    const [begins, ends] = [own[0]?.step.begins, own.at(-1)?.step.ends];
    return {
      rows: own.flatMap((part) => part.rows ?? []),
      steps: own.map((part) => part.step),
      ...(begins === undefined ? {} : { begins }),
      ...(ends === undefined ? {} : { ends }),
    };
  });
}

interface Layout {
  /** Addresses that rows count from, lowest first. */
  bases: number[];
  /** Bytes of an address in a row. */
  addressBytes: 1 | 2 | 3 | 4;
  has: { keeps: boolean; awaits: boolean; waits: boolean };
  widths: Width[];
}

function layoutOf(rows: readonly Row[]): Layout {
  const registers = rows.flatMap((row) => (row.kind === 'wait' ? [] : [row.register]));
  const addresses = [...new Set(registers.map((one) => one.address))].sort((a, b) => a - b);
  const addressBytes =
    ([1, 2, 3] as const).find((bytes) => basesFor(addresses, bytes).length <= MOST_BASES) ?? 4;
  return {
    bases: basesFor(addresses, addressBytes),
    addressBytes,
    has: {
      keeps: rows.some((row) => row.kind === 'change' && row.keep !== undefined),
      awaits: rows.some((row) => row.kind === 'await'),
      waits: rows.some((row) => row.kind === 'wait'),
    },
    widths: [...new Set(registers.map((one): Width => one.bits))].sort((a, b) => a - b),
  };
}

/** As few bases as let every address be counted in so many bytes. */
function basesFor(addresses: readonly number[], bytes: number): number[] {
  const bases: number[] = [];
  for (const address of addresses) {
    const last = bases.at(-1);
    if (last === undefined || address - last >= 256 ** bytes) bases.push(address);
  }
  return bases;
}

const baseOf = ({ bases }: Layout, { address }: Register): number =>
  bases.findLastIndex((base) => base <= address);

function bytesOf(row: Row, { addressBytes }: Layout): number {
  if (row.kind === 'wait') return 1 + 4;
  const width = row.register.bits / 8;
  if (row.kind === 'await') return 1 + addressBytes + 2 * width + 4;
  return 1 + addressBytes + width * ((row.keep === undefined ? 0 : 1) + (row.set === undefined ? 0 : 1));
}

const BYTES = { 8: c`0`, 16: c`1`, 32: c`2` };

/** How numbers become bytes, lowest first. */
function printRowMacros(names: CNames, { addressBytes }: Layout): CCode[] {
  const counts = [...new Set([1, 2, 4, addressBytes])].sort((a, b) => a - b) as (1 | 2 | 3 | 4)[];
  return [
    c``,
    comment('Numbers as bytes, the lowest first.'),
    ...counts.map((count) => {
      const bytes = Array.from({ length: count }, (_, k) =>
        k === 0 ? c`(uint8_t)((n) & 0xFFu)` : c`(uint8_t)((n) >> ${decimal(8 * k)} & 0xFFu)`,
      );
      return c`#define ${names.ownMacro(`ROW_${count}`)}(n) ${join(bytes, c`, `)}`;
    }),
  ];
}

function printRow(names: CNames, row: Row, layout: Layout): CCode {
  const number = (value: number, bits: Width): CCode =>
    c`${names.ownMacro(`ROW_${(bits / 8) as 1 | 2 | 4}`)}(${hexLiteral(value & fullMask(bits), bits)})`;
  if (row.kind === 'wait') return c`${hexLiteral(HOW.waits, 8)}, ${number(row.cycles, 32)}`;
  const { register } = row;
  const base = baseOf(layout, register);
  const from = hexLiteral(layout.bases[base] ?? 0, 32);
  const at = c`${names.ownMacro(`ROW_${layout.addressBytes}`)}(${names.register(register)} - ${from})`;
  const first = WIDTH_CODE[register.bits] | (base << BASE_SHIFT);
  if (row.kind === 'await') {
    const how = hexLiteral(first | HOW.keeps, 8);
    return c`${how}, ${at}, ${number(row.mask, register.bits)}, ${number(row.value, register.bits)}, ${number(row.tries, 32)}`;
  }
  const how =
    first |
    (row.reads ? HOW.reads : 0) |
    (row.keep === undefined ? 0 : HOW.keeps) |
    (row.set === undefined ? 0 : HOW.sets);
  return join(
    [
      hexLiteral(how, 8),
      at,
      ...[row.keep, row.set].flatMap((value) => (value === undefined ? [] : [number(value, register.bits)])),
    ],
    c`, `,
  );
}

/** Carries out rows; false when waiting ends without result. */
function printRun(names: CNames, layout: Layout): CCode[] {
  const { has, widths, bases, addressBytes } = layout;
  const [take, run] = [names.own('take'), names.own('run')];
  const last = widths.at(-1) ?? 32;
  const others = widths.slice(0, -1);
  const chosen = (each: (bits: Width) => CCode): CCode[] => [
    ...others.map((bits) => c`        if (width == ${BYTES[bits]}u) { ${each(bits)} } else`),
    c`        { ${each(last)} }`,
  ];
  const readInto = (bits: Width): CCode => c`value = ${names.ownMacro(`READ${bits}`)}(address);`;
  const read = (): CCode[] => chosen(readInto).map(indented);
  const list = join(
    bases.map((base) => hexLiteral(base, 32)),
    c`, `,
  );
  return [
    ...(bases.length > 1 ? [c`static uint32_t const ${names.own('bases')}[] = { ${list} };`, c``] : []),
    c`static uint32_t ${take}(uint8_t const **at, uint8_t bytes)`,
    c`{`,
    c`    uint32_t value = 0u;`,
    c`    for (uint8_t k = 0u; k < bytes; k++) { value |= (uint32_t)*(*at)++ << (8u * k); }`,
    c`    return value;`,
    c`}`,
    c``,
    c`static bool ${run}(uint8_t const *at, uint8_t const *end)`,
    c`{`,
    c`    while (at < end) {`,
    c`        uint8_t const how = *at++;`,
    ...(has.waits
      ? [
          c`        if ((how & 0x03u) == ${hexLiteral(HOW.waits, 8)}) {`,
          c`            ${names.ownMacro('WAIT')}(${take}(&at, 4u));`,
          c`            continue;`,
          c`        }`,
        ]
      : []),
    c`        uint8_t const width = how & 0x03u;`,
    c`        uint8_t const bytes = (uint8_t)(1u << width);`,
    c`        uint32_t const address = ${bases.length === 1 ? hexLiteral(bases[0] ?? 0, 32) : c`${names.own('bases')}[how >> ${decimal(BASE_SHIFT)}]`} + ${take}(&at, ${decimal(addressBytes)}u);`,
    c`        uint32_t value = 0u;`,
    ...(has.awaits
      ? [
          c`        if ((how & ${hexLiteral(HOW.reads | HOW.keeps, 8)}) == ${hexLiteral(HOW.keeps, 8)}) {`,
          c`            uint32_t const mask = ${take}(&at, bytes);`,
          c`            uint32_t const wanted = ${take}(&at, bytes);`,
          c`            uint32_t tries = ${take}(&at, 4u);`,
          c`            for (;;) {`,
          ...read().map(indented),
          c`                if ((value & mask) == wanted) { break; }`,
          c`                if (tries == 0u) { return false; }`,
          c`                tries = tries - 1u;`,
          c`            }`,
          c`            continue;`,
          c`        }`,
        ]
      : []),
    c`        if ((how & ${hexLiteral(HOW.reads, 8)}) != 0u) {`,
    ...read(),
    c`        }`,
    ...(has.keeps
      ? [c`        if ((how & ${hexLiteral(HOW.keeps, 8)}) != 0u) { value &= ${take}(&at, bytes); }`]
      : []),
    c`        if ((how & ${hexLiteral(HOW.sets, 8)}) != 0u) { value |= ${take}(&at, bytes); }`,
    ...chosen((bits) => {
      const whole = bits === 32 ? c`value` : c`(${widthType(bits)})value`;
      return c`${names.ownMacro(`WRITE${bits}`)}(address, ${whole});`;
    }),
    c`    }`,
    c`    return true;`,
    c`}`,
  ];
}
