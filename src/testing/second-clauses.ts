import { compute, type Row } from './second-machine';

/**
 * Clauses of a description as C, for the second machine: a text is cut into words and turned into C with all parentheses written out, by
 * levels of operators, without a tree. Apart from `src/core`, like the machine itself.
 */
export interface ClauseNames {
  /** The position of the row that a name means from where it stands, and -1 where it means none. */
  rowOf(name: string, each: string | undefined): number;
  numberOf(name: string, each: string | undefined): number | undefined;
  copiesOf(block: string): string[];
}

const WORDS =
  /0[xX][0-9a-fA-F]+|0[bB][01]+|\d+|[A-Za-z_][\w.]*(?:\[[^\]]*\][\w.]*)*(?:\[\w+\])?|:=|\|=|&=|\^=|<<|>>|==|!=|>=|<=|[-+|^&~<>()?:;,]/g;
const LEVELS = [['==', '!=', '<', '>', '<=', '>='], ['|'], ['^'], ['&'], ['<<', '>>'], ['+', '-']];

class Translator {
  private at = 0;
  private readonly words: string[];

  constructor(
    text: string,
    private readonly names: ClauseNames,
    private readonly each?: string,
  ) {
    this.words = text.match(WORDS) ?? [];
  }

  get done(): boolean {
    return this.at >= this.words.length;
  }

  next(): string {
    return this.words[this.at++] ?? '';
  }

  skip(word: string): boolean {
    if (this.words[this.at] !== word) return false;
    this.at++;
    return true;
  }

  value(): string {
    const condition = this.level(0);
    if (!this.skip('?')) return condition;
    const yes = this.value();
    this.at++;
    return `(${condition} != 0u ? ${yes} : ${this.value()})`;
  }

  private level(depth: number): string {
    if (depth === LEVELS.length) return this.factor();
    let left = this.level(depth + 1);
    while (LEVELS[depth]?.includes(this.words[this.at] ?? '')) {
      const sign = this.next();
      const right = this.level(depth + 1);
      left =
        depth === 4
          ? `${sign === '<<' ? 'up' : 'down'}(${left}, ${right})`
          : `(uint32_t)(${left} ${sign} ${right})`;
    }
    return left;
  }

  private factor(): string {
    const word = this.next();
    if (word === '~') return `(~${this.factor()})`;
    if (word === '(') {
      const inner = this.value();
      this.at++;
      return inner;
    }
    if (word === 'each') {
      this.at++;
      const inner = this.value();
      this.at++;
      const times = this.next();
      this.at++;
      return `repeated(${inner}, ${times})`;
    }
    if (/^\d/.test(word)) return `UINT32_C(${compute(word, {})})`;
    if (word === 'v') return 'v';
    const number = this.names.numberOf(word, this.each);
    const chosen = elementsOf(word, this.names, this.each);
    if (chosen)
      return chosen.rows.reduceRight(
        (beyond, row, k) => `(look(${chosen.by}) == ${k}u ? look(${row}) : ${beyond})`,
        '0u',
      );
    return number === undefined ? `look(${rowOf(word, this.names, this.each)})` : `UINT32_C(${number >>> 0})`;
  }
}

/** The row that a name means; one that means none is a mistake of the test. */
function rowOf(name: string, names: ClauseNames, each: string | undefined): number {
  const row = names.rowOf(name, each);
  if (row < 0) throw new Error(`the second machine finds no ${name}`);
  return row;
}

/** `R[S]`: the rows of all elements, and that of the register that says which. */
function elementsOf(
  name: string,
  names: ClauseNames,
  each: string | undefined,
): { rows: number[]; by: number } | undefined {
  const [, array = '', index = ''] = /^(.*)\[([A-Za-z_]\w*)\]$/.exec(name) ?? [];
  if (array === '' || names.numberOf(index, each) !== undefined) return undefined;
  const by = names.rowOf(index, each);
  const rows: number[] = [];
  for (let k = 0; ; k++) {
    const row = names.rowOf(`${array}[${k}]`, each);
    if (row < 0) return by < 0 ? undefined : { rows, by };
    rows.push(row);
  }
}

export const valueInC = (text: string, names: ClauseNames): string => new Translator(text, names).value();

/** Assignments, each to a row; all are worked out before the first is done. `prefix` names the temporaries. */
export function assignmentsInC(text: string, names: ClauseNames): { row: number; value: string }[] {
  return text
    .split(';')
    .filter((part) => part.trim() !== '')
    .flatMap((part) => {
      const target = /^\s*([^\s:|&^]+)/.exec(part)?.[1] ?? '';
      const looped = /^(\w+)\[\*\]/.exec(target)?.[1];
      return (looped === undefined ? [undefined] : names.copiesOf(looped)).flatMap((each) => {
        const translator = new Translator(part, names, each);
        translator.next();
        const sign = translator.next();
        const right = translator.value();
        const chosen = elementsOf(target, names, each);
        if (chosen)
          return chosen.rows.map((row, k) => {
            const value = sign === ':=' ? right : `(look(${row}) ${sign.slice(0, 1)} ${right})`;
            return { row, value: `(look(${chosen.by}) == ${k}u ? ${value} : look(${row}))` };
          });
        const row = rowOf(target, names, each);
        return { row, value: sign === ':=' ? right : `(look(${row}) ${sign.slice(0, 1)} ${right})` };
      });
    });
}

interface ClauseText {
  at: number;
  row: Row;
  names: ClauseNames;
}

/** C functions for what reads and writes of rows do by their clauses, and for what every access does. */
export function clausesInC(rows: readonly ClauseText[]): string {
  const cases: Record<'gives' | 'when' | 'writes' | 'reads', string[]> = {
    gives: [],
    when: [],
    writes: [],
    reads: [],
  };
  const rests = rows.flatMap(({ at, row }) => {
    const [, value = '0', time = '1'] = /^(\w+) after (\w+) cycles$/.exec(row.source.returnsTo ?? '') ?? [];
    return row.source.returnsTo === undefined
      ? []
      : [`{ ${at}, ${Number(value)}u, ${time === 'unknown' ? 300 : time} }`];
  });
  const every: { row: number; value: string; writes: boolean }[] = [];
  for (const { at, row, names } of rows) {
    const { source } = row;
    const done = (text: string): string => {
      const list = assignmentsInC(text, names);
      const temporaries = list.map(({ value }, k) => `uint32_t t${k} = ${value};`);
      return `{ ${temporaries.join(' ')} ${list.map(({ row: to }, k) => `own(${to}, t${k});`).join(' ')} break; }`;
    };
    if (source.read !== undefined) cases.gives.push(`case ${at}: return ${valueInC(source.read, names)};`);
    if (source.writeWhen !== undefined)
      cases.when.push(`case ${at}: return ${valueInC(source.writeWhen, names)} != 0u;`);
    if (source.write !== undefined) cases.writes.push(`case ${at}: ${done(source.write)}`);
    if (source.afterRead !== undefined) cases.reads.push(`case ${at}: ${done(source.afterRead)}`);
    for (const each of assignmentsInC(source.anyAccess ?? '', names)) every.push({ ...each, writes: false });
    for (const each of assignmentsInC(source.anyWrite ?? '', names)) every.push({ ...each, writes: true });
  }
  const most = every.length + 1;
  return `
static int assigned[N];
static uint32_t up(uint32_t a, uint32_t by) { return by > 31u ? 0u : a << by; }
static uint32_t down(uint32_t a, uint32_t by) { return by > 31u ? 0u : a >> by; }
static uint32_t repeated(uint32_t a, int times) { uint32_t all = 0; for (int b = 0; b < 32; b++) if (a >> (b / times) & 1u) all |= UINT32_C(1) << b; return all; }
static const struct { int row; uint32_t value; int cycles; } rests[] = { ${[...rests, '{ -1, 0, 1 }'].join(', ')} };
/* What has been written is on its way back, and arrives at some time until the last one. */
static void back(int row) {
  for (int r = 0; rests[r].row >= 0; r++) if (rests[r].row == row) {
    for (int i = 0; i < dues; i++) if (due[i].row == row) due[i].at = -1;
    due[dues].at = now + 1 + (long)(dice() % (unsigned)rests[r].cycles); due[dues].row = row; due[dues].mask = 0xFFFFFFFFu; due[dues++].value = rests[r].value;
  }
}
static void own(int row, uint32_t v) { keep(row, v & full(row)); assigned[row] = 1; back(row); }
static void all_back(void) { for (int r = 0; rests[r].row >= 0; r++) back(rests[r].row); }
static uint32_t given_by(int row) { (void)up; (void)down; (void)repeated; switch (row) { ${cases.gives.join(' ')} default: return 0u; } }
static int met(int row, uint32_t v) { (void)v; switch (row) { ${cases.when.join(' ')} default: return 1; } }
static void done_by_write(int row, uint32_t v) { (void)v; switch (row) { ${cases.writes.join('\n')} default: break; } }
static void done_by_read(int row) { switch (row) { ${cases.reads.join('\n')} default: break; } }
static uint32_t every_value[${most}];
static void every_begin(int writing) { (void)writing; memset(assigned, 0, sizeof assigned); ${every.map(({ value }, k) => `every_value[${k}] = ${value};`).join(' ')} }
static void every_end(int writing) { (void)writing; ${every.map(({ row, writes }, k) => `${writes ? 'if (writing) ' : ''}if (!assigned[${row}]) { keep(${row}, every_value[${k}] & full(${row})); back(${row}); }`).join(' ')} }
`;
}
