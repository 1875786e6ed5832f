/** More than any sum of costs, and far from where 32 bits overflow. */
export const FAR = 100_000_000;

/**
 * Cheapest assignment of rows to columns, one column a row, by shortest augmenting paths with prices (the Hungarian method;
 * R. Jonker and A. Volgenant, Computing 38, 1987). Rows can be changed in between: as long as costs only rise, prices stay
 * valid and only the rows that lost their column are assigned anew.
 */
export interface Assignment {
  rows: number;
  columns: number;
  /** Row-major; {@link FAR} where a row cannot take a column. */
  costs: Int32Array;
  rowPrice: Int32Array;
  /** Never positive; 0 on columns that nobody wants. */
  columnPrice: Int32Array;
  columnOf: Int32Array;
  rowOf: Int32Array;
}

export const newAssignment = (rows: number, columns: number): Assignment => ({
  rows,
  columns,
  costs: new Int32Array(rows * columns).fill(FAR),
  rowPrice: new Int32Array(rows),
  columnPrice: new Int32Array(columns),
  columnOf: new Int32Array(rows).fill(-1),
  rowOf: new Int32Array(columns).fill(-1),
});

export const copyAssignment = (from: Assignment): Assignment => ({
  rows: from.rows,
  columns: from.columns,
  costs: from.costs.slice(),
  rowPrice: from.rowPrice.slice(),
  columnPrice: from.columnPrice.slice(),
  columnOf: from.columnOf.slice(),
  rowOf: from.rowOf.slice(),
});

/**
 * Takes a row off its column when its costs there rose. A column that becomes free must cost nothing; rows that would rather
 * have it then are taken off theirs, and so on.
 */
export function loosen(state: Assignment, row: number): void {
  const { rows, columns, costs, rowPrice, columnPrice, columnOf, rowOf } = state;
  const column = columnOf[row] as number;
  if (column < 0) return;
  const cost = costs[row * columns + column] as number;
  if (cost - (rowPrice[row] as number) - (columnPrice[column] as number) === 0) return;
  columnOf[row] = -1;
  rowOf[column] = -1;
  const freed = [column];
  for (let free = freed.pop(); free !== undefined; free = freed.pop()) {
    if (columnPrice[free] === 0) continue;
    columnPrice[free] = 0;
    for (let other = 0; other < rows; other++) {
      const here = costs[other * columns + free] as number;
      if (here >= (rowPrice[other] as number)) continue;
      rowPrice[other] = here;
      const own = columnOf[other] as number;
      if (own < 0) continue;
      columnOf[other] = -1;
      rowOf[own] = -1;
      freed.push(own);
    }
  }
}

/** Sum of the prices: the cost of the cheapest assignment when all rows are assigned, a lower bound in between. */
export function total(state: Assignment): number {
  let sum = 0;
  for (let row = 0; row < state.rows; row++) sum += state.rowPrice[row] as number;
  for (let column = 0; column < state.columns; column++) sum += state.columnPrice[column] as number;
  return sum;
}

/** Assigns all rows that have no column. Returns the rows that cannot all be assigned (too few columns for them), or nothing. */
export function assignAll(state: Assignment, work: Workspace): number[] | undefined {
  contest(state);
  for (let row = 0; row < state.rows; row++) {
    if ((state.columnOf[row] as number) >= 0) continue;
    const stuck = augment(state, row, work);
    if (stuck) return stuck;
  }
  return undefined;
}

/** Rounds of the contest for columns, for each row that has none; what is left after that is augmented. */
const CONTESTS = 4;

/**
 * Rows without a column take the one that is cheapest for them, and who had it looks for another; the column becomes dearer by
 * as much as the row would have minded its second choice (the row reduction of Jonker and Volgenant). Much the quicker way to
 * most of an assignment. Columns that nobody has keep the price 0.
 */
function contest(state: Assignment): void {
  const { rows, columns, costs, rowPrice, columnPrice, columnOf, rowOf } = state;
  const waiting: number[] = [];
  for (let row = rows - 1; row >= 0; row--) if ((columnOf[row] as number) < 0) waiting.push(row);
  for (let left = waiting.length * CONTESTS; left > 0; left--) {
    const row = waiting.pop();
    if (row === undefined) return;
    let first = FAR;
    let second = FAR;
    let column = -1;
    const base = row * columns;
    for (let at = 0; at < columns; at++) {
      const cost = costs[base + at] as number;
      if (cost >= FAR) continue;
      const reduced = cost - (columnPrice[at] as number);
      if (reduced < first) {
        second = first;
        first = reduced;
        column = at;
      } else if (reduced < second) second = reduced;
    }
    const other = column < 0 ? -1 : (rowOf[column] as number);
    // With no second choice, or none that is dearer, nobody is the better for it.
    if (column < 0 || (other >= 0 && (second >= FAR || second === first))) continue;
    if (other >= 0) {
      columnPrice[column] = (columnPrice[column] as number) - (second - first);
      rowPrice[row] = second;
      columnOf[other] = -1;
      waiting.push(other);
    } else rowPrice[row] = first;
    columnOf[row] = column;
    rowOf[column] = row;
  }
}

/** Scratch space, so that nothing is allocated on the way. */
export interface Workspace {
  distance: Int32Array;
  before: Int32Array;
  scanned: Uint8Array;
  open: Int32Array;
}

export const newWorkspace = (columns: number): Workspace => ({
  distance: new Int32Array(columns),
  before: new Int32Array(columns),
  scanned: new Uint8Array(columns),
  open: new Int32Array(columns),
});

function augment(state: Assignment, start: number, work: Workspace): number[] | undefined {
  const { columns, costs, rowPrice, columnPrice, columnOf, rowOf } = state;
  const { distance, before, scanned, open } = work;
  const visited: number[] = [start];
  // The start's price rises to its cheapest reduced cost at once; that keeps all numbers small.
  let least = FAR;
  const startBase = start * columns;
  for (let column = 0; column < columns; column++) {
    const cost = costs[startBase + column] as number;
    distance[column] =
      cost >= FAR ? FAR : cost - (rowPrice[start] as number) - (columnPrice[column] as number);
    if ((distance[column] as number) < least) least = distance[column] as number;
    before[column] = start;
    scanned[column] = 0;
    open[column] = column;
  }
  if (least >= FAR) return visited;
  let left = columns;
  let reached = 0;
  let end = -1;
  while (end < 0) {
    let at = -1;
    let nearest = FAR;
    for (let k = 0; k < left; k++) {
      const d = distance[open[k] as number] as number;
      if (d < nearest) {
        nearest = d;
        at = k;
        if (d === reached) break;
      }
    }
    if (at < 0) return visited;
    const column = open[at] as number;
    open[at] = open[--left] as number;
    scanned[column] = 1;
    reached = nearest;
    const row = rowOf[column] as number;
    if (row < 0) {
      end = column;
      break;
    }
    visited.push(row);
    const base = row * columns;
    const shift = nearest - (rowPrice[row] as number);
    for (let k = 0; k < left; k++) {
      const other = open[k] as number;
      const cost = costs[base + other] as number;
      if (cost >= FAR) continue;
      const through = shift + cost - (columnPrice[other] as number);
      if (through < (distance[other] as number)) {
        distance[other] = through;
        before[other] = row;
      }
    }
  }
  rowPrice[start] = (rowPrice[start] as number) + reached;
  for (let column = 0; column < columns; column++) {
    if (scanned[column] !== 1 || column === end) continue;
    const gain = reached - (distance[column] as number);
    const row = rowOf[column] as number;
    if (row >= 0) rowPrice[row] = (rowPrice[row] as number) + gain;
    columnPrice[column] = (columnPrice[column] as number) - gain;
  }
  let column = end;
  for (;;) {
    const row = before[column] as number;
    const next = columnOf[row] as number;
    columnOf[row] = column;
    rowOf[column] = row;
    if (row === start) return undefined;
    column = next;
  }
}
