import type { HistoryEntry } from '@/core/plan/history';

/** Edits of one person that came shortly after each other, newest first. */
export interface HistoryGroup {
  /** "27 Nov 2026". */
  day: string;
  author: string;
  client: string;
  entries: HistoryEntry[];
}

/** A pause longer than this begins a new group. */
const PAUSE_MS = 30 * 60_000;

export const dayOf = (at: string): string =>
  new Date(at).toLocaleDateString('en-GB', { dateStyle: 'medium' });
export const clockOf = (at: string): string =>
  new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

/** Groups a history; `splits` are numbers behind which a group ends, as a revision does. */
export function groupedHistory(
  entries: readonly HistoryEntry[],
  splits: ReadonlySet<number>,
): HistoryGroup[] {
  const groups: HistoryGroup[] = [];
  let before: HistoryEntry | undefined;
  for (const one of entries) {
    const group = groups.at(-1);
    const goesOn =
      group &&
      before &&
      group.day === dayOf(one.at) &&
      group.author === one.author &&
      (one.author !== '' || group.client === one.client) &&
      !splits.has(one.seq) &&
      Date.parse(before.at) - Date.parse(one.at) <= PAUSE_MS;
    if (goesOn) group.entries.push(one);
    else groups.push({ day: dayOf(one.at), author: one.author, client: one.client, entries: [one] });
    before = one;
  }
  return groups;
}

/** The revision after a revision: B after A, AA after Z, 10 after 9. */
export function nextRevision(name: string): string {
  const [, head = '', number] = /^(.*?)(\d+)$/.exec(name) ?? [];
  if (number !== undefined) return `${head}${String(Number(number) + 1).padStart(number.length, '0')}`;
  const letters = /[A-Z]+$/i.exec(name)?.[0];
  if (!letters) return `${name}2`;
  const stem = name.slice(0, name.length - letters.length);
  const last = letters.at(-1) as string;
  if (last.toUpperCase() !== 'Z')
    return `${stem}${letters.slice(0, -1)}${String.fromCharCode(last.charCodeAt(0) + 1)}`;
  const first = last === 'Z' ? 'A' : 'a';
  const rest = letters.slice(0, -1);
  return rest === '' ? `${stem}${first}${first}` : `${nextRevision(`${stem}${rest}`)}${first}`;
}
