import { hexText } from '../../base/text/hex';
import { bitWords } from '../../derive/machine/mishap-text';
import type { Register } from '../../device/registers/types';
import { accessesOf } from '../engine/firmware';
import type { BusAccess, LogEntry } from '../engine/log';
import type { Bench } from '../engine/sync';
import { timeText } from '../script/time-text';

/** What happened on the bench, for people: the registers that a call read and wrote, handlers that ran, interrupts that were missed. */

/** Entries of the log from a number on. */
export function entriesSince({ state }: Bench, first: number): readonly LogEntry[] {
  return state.log.entries.slice(Math.max(0, first - state.log.first));
}

/** "PB.OUTC = 0x0080", "PA.IN bit 7 is 1". */
export function accessText(
  { register, wrote, changed, turned, read }: BusAccess,
  bitsOf: (name: string) => Register | undefined,
): string {
  const bits = bitsOf(register)?.bits ?? 32;
  const hex = (value: number): string => hexText(value >>> 0, bits);
  if (read) return `${register} ${bitsRead(read, bits)}`;
  if (turned !== undefined) return `${register} ^ ${hex(turned)}`;
  if (changed !== undefined) return `${register} & ~${hex(changed)} | ${hex(wrote ?? 0)}`;
  return `${register} = ${hex(wrote ?? 0)}`;
}

/** "bit 7 is 1", "bits 3…0 are 01?0": those that were asked for, the highest first. */
function bitsRead(
  { known, value, mask }: { known: number; value: number; mask: number },
  bits: number,
): string {
  const places = Array.from({ length: bits }, (_, at) => bits - 1 - at).filter(
    (bit) => ((mask >>> bit) & 1) === 1,
  );
  const digits = places
    .map((bit) => (((known >>> bit) & 1) === 0 ? '?' : String((value >>> bit) & 1)))
    .join('');
  return `${bitWords(mask, bits)} ${places.length === 1 ? `is ${digits}` : `are ${digits}`}`;
}

/** What is worth saying of an entry; undefined of most. */
export function entryText(bench: Bench, entry: LogEntry): string | undefined {
  const { device } = bench.setup;
  switch (entry.kind) {
    case 'call': {
      const made = accessesOf(entry).map((one) =>
        accessText(one, (name) => device.registers.byName.get(name)),
      );
      const gives = entry.gives === undefined ? '' : `${entry.gives}  `;
      const fault = entry.accessor.fault === undefined ? '' : `; not proven: ${entry.accessor.fault}`;
      return `${gives}${made.length > 0 ? `(${made.join(', ')})` : ''}${fault}`;
    }
    case 'interrupt': {
      const what = interruptText(entry);
      const line = entry.line === undefined ? '' : ` (${entry.line})`;
      return `${entry.net} ${entry.edge} at ${timeText(entry.time)}${line}: ${what}`;
    }
    case 'wake':
      return `${entry.net} wakes the part at ${timeText(entry.time)}`;
    default:
      return undefined;
  }
}

function interruptText({
  edge,
  missed,
  held,
  lasts,
  handler,
  acknowledged,
}: Extract<LogEntry, { kind: 'interrupt' }>): string {
  if (missed)
    return edge === 'over'
      ? 'is missed: its level went before a handler ran'
      : 'is missed: the one before waits still';
  if (edge === 'over') return held ? 'its level has gone' : `${handler} has run for the last time`;
  if (held) return 'waits: handlers are off';
  if (lasts) return `${handler} runs, and again for as long as the level lasts`;
  return `${handler} runs${acknowledged ? '' : ', and its flag stays'}`;
}
