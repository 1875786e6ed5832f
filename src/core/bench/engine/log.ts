import type { Accessor } from '../../derive/accessors/accessors';
import type { Operation } from '../../derive/machine/operations';
import type { Mishap } from '../../derive/machine/state';

/** What happened on the bench, in order; lanes name the entry that caused a change. */
export type LogEntry = { time: number } & (
  | { kind: 'start'; text: string }
  | { kind: 'operation'; index: number; operation: Operation; mishaps: readonly Mishap[] }
  | {
      kind: 'call';
      text: string;
      line: number | undefined;
      accessor: Accessor;
      value: number;
      /** What its reads gave, in order. */
      reads: readonly { known: number; value: number }[] | undefined;
      gives: string | undefined;
    }
  | { kind: 'act'; text: string; line?: number; fault?: string }
  | { kind: 'part'; part: number }
  | {
      kind: 'interrupt';
      net: string;
      handler: string;
      /** The line to the interrupt controller, where the part says how pads reach it; several may share it. */
      line: string | undefined;
      /** The edge or level that raised it; `waiting` when handlers are let through again, `over` when its level has gone. */
      edge: string;
      missed: boolean;
      held: boolean;
      acknowledged: boolean;
      /** Its level is still there: the handler runs again and again until it goes. */
      lasts: boolean;
    }
  | { kind: 'wake'; net: string }
);

/** A register that the firmware read or wrote. */
export interface BusAccess {
  register: string;
  wrote?: number;
  /** Only these bits were given what was written. */
  changed?: number;
  /** Bits that were turned into their opposites. */
  turned?: number;
  read?: { known: number; value: number; mask: number };
}

/** The entries of a play, the oldest of which are forgotten again: `first` is the number of the first that is known. */
export interface Log {
  entries: LogEntry[];
  first: number;
}

const MOST_ENTRIES = 25_000;

export function addEntry(log: Log, entry: LogEntry): void {
  if (log.entries.length >= MOST_ENTRIES * 2) {
    log.entries.splice(0, MOST_ENTRIES);
    log.first += MOST_ENTRIES;
  }
  log.entries.push(entry);
}

/** The number of the latest entry: what is happening now. */
export const causeNow = ({ entries, first }: Log): number => first + entries.length - 1;

/** An entry by its number; undefined when it has been forgotten. */
export const entryOf = ({ entries, first }: Log, number: number): LogEntry | undefined =>
  entries[number - first];
