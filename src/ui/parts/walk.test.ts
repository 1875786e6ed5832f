import { cellAfter, placeAround } from './walk';

const at = (row: number, column: number) => ({ row, column });

test.each<[string, string, [number, number], [number, number] | undefined]>([
  ['down', 'ArrowDown', [1, 1], [2, 1]],
  ['up', 'ArrowUp', [1, 1], [0, 1]],
  ['left', 'ArrowLeft', [1, 1], [1, 0]],
  ['right', 'ArrowRight', [1, 1], [1, 2]],
  ['not over an edge', 'ArrowUp', [0, 1], [0, 1]],
  ['a page, as far as there are rows', 'PageDown', [1, 1], [3, 1]],
  ['no other key', 'a', [1, 1], undefined],
])('in a grid: %s', (_name, key, [row, column], to) => {
  expect(cellAfter(key, at(row, column), { rows: 4, columns: 3 })).toEqual(to && at(...to));
});

test('holes are stepped over, and where nothing comes after them one stays', () => {
  const there = ({ row, column }: { row: number; column: number }) => !(row === 1 && column > 0);
  const grid = { rows: 3, columns: 3, there };
  expect(cellAfter('ArrowDown', at(0, 1), grid)).toEqual(at(2, 1));
  expect(cellAfter('ArrowRight', at(1, 0), grid)).toEqual(at(1, 0));
});

test('a list knows its ends, and no sideways', () => {
  const list = { rows: 5, columns: 1 };
  expect(cellAfter('End', at(1, 0), list)).toEqual(at(4, 0));
  expect(cellAfter('Home', at(1, 0), list)).toEqual(at(0, 0));
  expect(cellAfter('ArrowRight', at(1, 0), list)).toBeUndefined();
  expect(cellAfter('ArrowDown', at(0, 0), { rows: 0, columns: 1 })).toBeUndefined();
});

describe('around the edges of a package', () => {
  const edges = [3, 2, 3];
  test.each([
    ['ArrowDown', [0, 0], [0, 1]],
    ['ArrowDown', [0, 2], [1, 0]],
    ['ArrowDown', [2, 2], [0, 0]],
    ['ArrowUp', [0, 0], [2, 2]],
    ['ArrowUp', [1, 0], [0, 2]],
    ['ArrowRight', [0, 2], [1, 1]],
    ['ArrowLeft', [0, 1], [2, 1]],
    ['ArrowRight', [2, 0], [0, 0]],
    ['Home', [2, 2], [2, 0]],
    ['End', [1, 0], [1, 1]],
  ])('%s from %j leads to %j (edge, pin)', (key, [column, row], [toColumn, toRow]) => {
    expect(placeAround(key, { column: column ?? 0, row: row ?? 0 }, edges)).toEqual({
      column: toColumn,
      row: toRow,
    });
  });
  test('other keys lead nowhere, and so do keys from nowhere', () => {
    expect(placeAround('a', { column: 0, row: 0 }, edges)).toBeUndefined();
    expect(placeAround('ArrowDown', { column: -1, row: 0 }, edges)).toBeUndefined();
  });
});
