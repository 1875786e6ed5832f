import type { HistoryEntry } from '@/core/plan/history';
import { groupedHistory, nextRevision } from './grouped';

const entry = (seq: number, minutes: number, author = 'mk', client = 'w'): HistoryEntry => ({
  seq,
  at: new Date(Date.UTC(2026, 10, 20, 10, minutes)).toISOString(),
  author,
  client,
  text: `edit ${seq}`,
  steps: 1,
});
const groups = (entries: HistoryEntry[], splits: number[] = []): number[][] =>
  groupedHistory(entries, new Set(splits)).map((one) => one.entries.map(({ seq }) => seq));

test('edits of one person shortly after each other are one group', () => {
  expect(groups([entry(4, 50), entry(3, 45), entry(2, 10), entry(1, 9)])).toEqual([
    [4, 3],
    [2, 1],
  ]);
  expect(groups([entry(3, 3, 'jo'), entry(2, 2), entry(1, 1)])).toEqual([[3], [2, 1]]);
  expect(groups([])).toEqual([]);
});
test('a revision ends a group; people without a name are told by their windows, those with one are not', () => {
  expect(groups([entry(3, 3), entry(2, 2), entry(1, 1)], [2])).toEqual([[3], [2, 1]]);
  expect(groups([entry(2, 2, '', 'a'), entry(1, 1, '', 'b')])).toEqual([[2], [1]]);
  expect(groups([entry(2, 2, 'mk', 'a'), entry(1, 1, 'mk', 'b')])).toEqual([[2, 1]]);
});
test.each([
  ['A', 'B'],
  ['C', 'D'],
  ['Z', 'AA'],
  ['AZ', 'BA'],
  ['b', 'c'],
  ['1.9', '1.10'],
  ['v09', 'v10'],
  ['rev A', 'rev B'],
  ['–', '–2'],
])('after revision %s comes %s', (name, next) => {
  expect(nextRevision(name)).toBe(next);
});
