import type { Operation } from '@/core/derive/machine/operations';
import type { BitRun, LensRegister } from '@/core/read-back/lens';

/** The id of a run of bits, or of a whole register, as the address has it: `PD.FN1:0`, `PD.FN1`. */
export const bitsId = ({ register }: Pick<LensRegister, 'register'>, run?: Pick<BitRun, 'low'>): string =>
  run ? `${register.name}:${run.low}` : register.name;

export interface BitsPlace {
  name: string;
  low?: number;
}

export function placeOfBits(id: string): BitsPlace {
  const colon = id.lastIndexOf(':');
  const low = Number(id.slice(colon + 1));
  return colon < 0 || !Number.isInteger(low) ? { name: id } : { name: id.slice(0, colon), low };
}

/** What an id stands for in the plan as it is now. */
export function findBits(
  rows: readonly LensRegister[],
  id: string,
): { row: LensRegister; run?: BitRun } | undefined {
  const { name, low } = placeOfBits(id);
  const row = rows.find(({ register }) => register.name === name);
  if (!row) return undefined;
  const run =
    low === undefined ? undefined : row.runs.find((one) => one.low <= low && low < one.low + one.bits);
  return { row, ...(run ? { run } : {}) };
}

/** Bits `high…low`, or the one bit. */
export const bitsText = ({ low, bits }: Pick<BitRun, 'low' | 'bits'>): string =>
  bits === 1 ? `bit ${low}` : `bits ${low + bits - 1}…${low}`;

export type LensFilter = 'all' | 'changed' | 'exported';

export interface LensChoice {
  filter: LensFilter;
  /** A block of registers: `PD`. */
  group: string;
  circuit: string;
  /** What registers held at the last export, by name. */
  exported: Readonly<Record<string, number>> | undefined;
}

/** The registers that a filter leaves. */
export function shownRegisters(rows: readonly LensRegister[], choice: LensChoice): LensRegister[] {
  const { filter, group, circuit, exported } = choice;
  return rows.filter(
    (row) =>
      (group === '' || row.group === group) &&
      (circuit === '' ||
        row.runs.some((run) => run.kind === 'planned' && run.one?.net.circuit === circuit)) &&
      (filter === 'all' ||
        (filter === 'changed'
          ? row.planned !== row.reset
          : exported !== undefined && (exported[row.register.name] ?? row.reset) !== row.planned)),
  );
}

/** The bits that an operation is about: those of its first pad, or the whole register; undefined for a pause. */
export function bitsOfOperation(rows: readonly LensRegister[], operation: Operation): string | undefined {
  if (operation.kind === 'wait') return undefined;
  const { register, pads } = operation;
  const row = rows.find(
    (one) =>
      one.register === register ||
      one.register === register.target ||
      (register.storage !== undefined && one.register.storage?.word === register.storage.word),
  );
  if (!row) return undefined;
  const pad = pads[0]?.pad;
  const run =
    pad === undefined ? undefined : row.runs.find((one) => one.pad === pad && one.kind === 'planned');
  return bitsId(row, run);
}

/** How far the last operation reaches, behind which comes the end of the function. */
const LAST = 3;

/** The operation that a line of the code belongs to; `begins` are the lines on which they begin. */
export function operationAt(begins: readonly number[], line: number): number | undefined {
  const found = begins.findLastIndex((begin) => begin <= line);
  return found < 0 || line > (linesOf(begins, found)?.[1] ?? 0) ? undefined : found;
}

/** The first and the last line of an operation. */
export function linesOf(begins: readonly number[], operation: number): [number, number] | undefined {
  const from = begins[operation];
  if (from === undefined) return undefined;
  const next = begins[operation + 1];
  return [from, next === undefined ? from + LAST - 1 : next - 1];
}
