/**
 * Reduced ordered binary decision diagrams with hash-consing (Bryant, 1986). A formula is a number; equal functions of the variables are
 * the same number, so whether two formulas agree in every state is one comparison. Variables are ordered by their number.
 */
export type Formula = number;

export const FALSE: Formula = 0;
export const TRUE: Formula = 1;

/** Raised when formulas have grown beyond what is kept; nothing may be concluded from what was being computed. */
export class TooManyFormulas extends Error {}

// Named here, since a global is slow to look up where tests run.
const { imul } = Math;

const NO_VARIABLE = 0x7fffffff;
const MOST_NODES = 2_000_000;

/** Values by three whole numbers: a table with open addressing and linear probing that doubles where it is half full. */
class TripleMap {
  private size = 0;
  /** Of each place its three numbers, and its value plus 1; 0 where it is empty. */
  private table = new Int32Array(4 * 64);
  private mask = 63;

  get(a: number, b: number, c: number): number | undefined {
    const value = this.table[this.place(a, b, c) + 3] as number;
    return value === 0 ? undefined : value - 1;
  }

  set(a: number, b: number, c: number, value: number): void {
    if (2 * this.size > this.mask) this.grow();
    const place = this.place(a, b, c);
    if (this.table[place + 3] === 0) this.size++;
    this.put(place, a, b, c, value + 1);
  }

  private put(place: number, a: number, b: number, c: number, stored: number): void {
    const { table } = this;
    table[place] = a;
    table[place + 1] = b;
    table[place + 2] = c;
    table[place + 3] = stored;
  }

  /** Where the three stand, or the empty place where they would. */
  private place(a: number, b: number, c: number): number {
    const { table, mask } = this;
    let hash = imul(a, 0x9e3779b1) ^ imul(b, 0x85ebca6b) ^ imul(c, 0xc2b2ae35);
    hash = imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
    for (let at = (hash ^ (hash >>> 13)) & mask; ; at = (at + 1) & mask) {
      const place = 4 * at;
      if (table[place + 3] === 0) return place;
      if (table[place] === a && table[place + 1] === b && table[place + 2] === c) return place;
    }
  }

  private grow(): void {
    const { table } = this;
    this.table = new Int32Array(2 * table.length);
    this.mask = 2 * this.mask + 1;
    for (let at = 0; at < table.length; at += 4) {
      const stored = table[at + 3] as number;
      if (stored === 0) continue;
      const [a, b, c] = [table[at] as number, table[at + 1] as number, table[at + 2] as number];
      this.put(this.place(a, b, c), a, b, c, stored);
    }
  }
}

/** All formulas of one machine, which live as long as it does. */
export class Formulas {
  private readonly variables: number[] = [NO_VARIABLE, NO_VARIABLE];
  private readonly low: Formula[] = [FALSE, TRUE];
  private readonly high: Formula[] = [FALSE, TRUE];
  private readonly nodes = new TripleMap();
  private readonly choices = new TripleMap();

  /** `most`: how many are kept before {@link TooManyFormulas} is raised. */
  constructor(private readonly most = MOST_NODES) {}

  /** How many there are, the two constants included. */
  get size(): number {
    return this.variables.length;
  }

  /** The formula that a variable is true. */
  variable(number: number): Formula {
    // Never refused: it is what is put in the place of what has become too entangled.
    return this.node(number, FALSE, TRUE, Number.POSITIVE_INFINITY);
  }

  not(formula: Formula): Formula {
    return this.choose(formula, FALSE, TRUE);
  }

  and(a: Formula, b: Formula): Formula {
    if (a === FALSE || b === FALSE) return FALSE;
    if (a === TRUE || a === b) return b;
    if (b === TRUE) return a;
    return this.choose(a, b, FALSE);
  }

  or(a: Formula, b: Formula): Formula {
    if (a === TRUE || b === TRUE) return TRUE;
    if (a === FALSE || a === b) return b;
    if (b === FALSE) return a;
    return this.choose(a, TRUE, b);
  }

  xor(a: Formula, b: Formula): Formula {
    if (a === b) return FALSE;
    if (a === FALSE) return b;
    if (b === FALSE) return a;
    return this.choose(a, this.not(b), b);
  }

  /** `condition ? yes : no`, in every state. */
  choose(condition: Formula, yes: Formula, no: Formula): Formula {
    if (condition === TRUE || yes === no) return yes;
    if (condition === FALSE) return no;
    if (yes === TRUE && no === FALSE) return condition;
    const known = this.choices.get(condition, yes, no);
    if (known !== undefined) return known;
    const top = Math.min(this.top(condition), this.top(yes), this.top(no));
    const made = this.node(
      top,
      this.choose(this.at(condition, top, false), this.at(yes, top, false), this.at(no, top, false)),
      this.choose(this.at(condition, top, true), this.at(yes, top, true), this.at(no, top, true)),
    );
    this.choices.set(condition, yes, no, made);
    return made;
  }

  /** The formula in one state; variables that it does not name are false. */
  evaluate(formula: Formula, values: (variable: number) => boolean): boolean {
    let at = formula;
    while (at > TRUE) at = (values(this.top(at)) ? this.high[at] : this.low[at]) as Formula;
    return at === TRUE;
  }

  /** The number of the variable that a formula is, and whether it is its opposite; undefined for any other formula. */
  literal(formula: Formula): { variable: number; inverted: boolean } | undefined {
    if (formula <= TRUE) return undefined;
    const [low, high] = [this.low[formula], this.high[formula]];
    if (low === FALSE && high === TRUE) return { variable: this.top(formula), inverted: false };
    if (low === TRUE && high === FALSE) return { variable: this.top(formula), inverted: true };
    return undefined;
  }

  /** What a formula is where its first variable is false, and where it is true; undefined of a constant. */
  split(formula: Formula): { variable: number; low: Formula; high: Formula } | undefined {
    if (formula <= TRUE) return undefined;
    return {
      variable: this.top(formula),
      low: this.low[formula] as Formula,
      high: this.high[formula] as Formula,
    };
  }

  /** The variables that a formula depends on. */
  support(formula: Formula): number[] {
    const variables = new Set<number>();
    const seen = new Set<Formula>();
    const visit = (at: Formula): void => {
      if (at <= TRUE || seen.has(at)) return;
      seen.add(at);
      variables.add(this.top(at));
      visit(this.low[at] as Formula);
      visit(this.high[at] as Formula);
    };
    visit(formula);
    return [...variables];
  }

  /**
   * Values of the variables below `limit` with which a formula holds whatever the others are; undefined where there are none. Variables
   * that it does not name are free; 0 is preferred.
   */
  solve(formula: Formula, limit: number): Map<number, boolean> | undefined {
    const hopeless = new Set<Formula>();
    const path = new Map<number, boolean>();
    const reach = (at: Formula): boolean => {
      if (at === TRUE) return true;
      if (at === FALSE || hopeless.has(at) || this.top(at) >= limit) return false;
      for (const value of [false, true]) {
        path.set(this.top(at), value);
        if (reach((value ? this.high[at] : this.low[at]) as Formula)) return true;
      }
      path.delete(this.top(at));
      hopeless.add(at);
      return false;
    };
    return reach(formula) ? path : undefined;
  }

  /**
   * Where a formula holds whatever the variables from `limit` on are: their universal quantification, which is what is left of the
   * variables below. Of several conditions together it is that of each by itself, which is much smaller on the way.
   */
  always(formula: Formula, limit: number): Formula {
    const known = new Map<Formula, Formula>();
    const reach = (at: Formula): Formula => {
      if (at <= TRUE) return at;
      if (this.top(at) >= limit) return FALSE;
      let made = known.get(at);
      if (made === undefined) {
        made = this.node(this.top(at), reach(this.low[at] as Formula), reach(this.high[at] as Formula));
        known.set(at, made);
      }
      return made;
    };
    return reach(formula);
  }

  private top(formula: Formula): number {
    return this.variables[formula] as number;
  }

  private at(formula: Formula, variable: number, value: boolean): Formula {
    if (this.variables[formula] !== variable) return formula;
    return (value ? this.high[formula] : this.low[formula]) as Formula;
  }

  private node(variable: number, low: Formula, high: Formula, most = this.most): Formula {
    if (low === high) return low;
    const known = this.nodes.get(variable, low, high);
    if (known !== undefined) return known;
    if (this.variables.length >= most)
      throw new TooManyFormulas('the hardware’s state has become too entangled');
    const made = this.variables.length;
    this.variables.push(variable);
    this.low.push(low);
    this.high.push(high);
    this.nodes.set(variable, low, high, made);
    return made;
  }
}
