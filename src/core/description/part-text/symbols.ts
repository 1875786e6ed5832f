import { collectProblems } from '../../base/problems';
import { fail, ok, type Result } from '../../base/result';
import { Cursor, Marks, Mistake, type NameUse, printWord } from './cursor';
import { readLine } from './forms';
import { linesOf, type TextLine } from './lines';
import type { Role } from './roles';
import { formFor, formsUnder, type Node, readTree } from './tree';

/**
 * Names in a part's text: where each is given, and where it is used. Names are resolved in two passes: definitions first, then uses, those
 * within clauses, conditions and steps by the words in them.
 */
export interface Occurrence {
  /** Equal for all occurrences of one thing: `register PORT.OUT`. */
  key: string;
  role: Role;
  /** As it is written here, without its block. */
  name: string;
  from: number;
  to: number;
  defines: boolean;
}

export interface Symbols {
  /** In the order of the text. */
  occurrences: readonly Occurrence[];
  /** The first definition of each thing. */
  definitions: ReadonlyMap<string, Occurrence>;
}

/** A word of a little language, perhaps with the block before it: `PORT.OUT`, `PORT[PA].OUT`, `PORT.*`, `OUT`. */
const WORD = /([A-Za-z_]\w*)(\[[^\]\n]*\])?(?:\.([A-Za-z_]\w*|\*))?/g;

interface Place {
  /** The block that the line belongs to. */
  block?: string;
  /** The setting whose values are listed in it. */
  setting?: string;
  /** Its conditions speak of fields. */
  ofFields: boolean;
}

/** Uses by the lines that they stand in: both are in the order of the text. */
function* placed(
  nodes: readonly Node[],
  uses: readonly NameUse[],
): Generator<{ use: NameUse; place: Place }> {
  let next = 0;
  const visit = function* (node: Node, block: string | undefined): Generator<{ use: NameUse; place: Place }> {
    const keyword = node.form?.keyword;
    const id = typeof node.item?.id === 'string' ? node.item.id : undefined;
    const guarded = keyword === 'guard' ? String(node.item?.block) : undefined;
    const blockHere = keyword === 'block' ? id : (guarded ?? block);
    const setting =
      keyword === 'setting' || keyword === 'between'
        ? String(node.item?.$key ?? node.item?.setting)
        : undefined;
    const place: Place = {
      ...(blockHere === undefined ? {} : { block: blockHere }),
      ...(setting === undefined ? {} : { setting }),
      ofFields: keyword === 'invariant',
    };
    for (; next < uses.length && (uses[next] as NameUse).from < node.line.end; next++)
      yield { use: uses[next] as NameUse, place };
    for (const child of node.children) yield* visit(child, keyword === 'block' ? id : block);
  };
  for (const node of nodes) yield* visit(node, undefined);
}

/** Each use once, in the order of the text: what was read again on the way was noted again. */
function once(uses: readonly NameUse[]): NameUse[] {
  const sorted = [...uses].sort((a, b) => a.from - b.from || b.to - a.to);
  return sorted.filter(
    (use, at) => at === 0 || use.from !== sorted[at - 1]?.from || use.role !== sorted[at - 1]?.role,
  );
}

let last: { text: string; symbols: Symbols } | undefined;

/** Names of a text. Editors ask for those of the same text at every move of the cursor. */
export function symbolsOf(text: string): Symbols {
  if (last?.text !== text) last = { text, symbols: readSymbols(text) };
  return last.symbols;
}

function readSymbols(text: string): Symbols {
  const { nodes, marks } = readTree(text, String, collectProblems(Number.POSITIVE_INFINITY));
  const all = [...placed(nodes, once(marks.uses))];
  const definitions = new Map<string, Occurrence>();
  const occurrences: Occurrence[] = [];
  const add = (
    role: Role,
    qualified: string,
    name: string,
    from: number,
    to: number,
    defines: boolean,
  ): void => {
    const occurrence = { key: `${role} ${qualified}`, role, name, from, to, defines };
    occurrences.push(occurrence);
    if (defines && !definitions.has(occurrence.key)) definitions.set(occurrence.key, occurrence);
  };
  const qualified = (role: Role, name: string, { block, setting }: Place): string =>
    role === 'register' ? `${block}.${name}` : role === 'value' ? `${setting}.${name}` : name;
  for (const { use, place } of all)
    if (use.defines && use.role !== 'raw')
      add(use.role, qualified(use.role, use.name, place), use.name, use.from, use.to, true);
  const isKnown = (role: Role, name: string): boolean => definitions.has(`${role} ${name}`);
  /** A register by its name, with its block or beside the line's own. */
  const addRegister = (
    from: number,
    first: string,
    second: string | undefined,
    at: number,
    { block }: Place,
  ): boolean => {
    if (second !== undefined) {
      if (!isKnown('block', first)) return false;
      add('block', first, first, from, from + first.length, false);
      if (second !== '*') add('register', `${first}.${second}`, second, at, at + second.length, false);
      return true;
    }
    if (block === undefined || !isKnown('register', `${block}.${first}`)) return false;
    add('register', `${block}.${first}`, first, from, from + first.length, false);
    return true;
  };
  /** The names in a stretch of text, those of elements (`R[S]`) too. */
  const addNames = (from: number, to: number, role: Role | 'raw', place: Place): void => {
    for (const match of text.slice(from, to).matchAll(WORD)) {
      const [whole, first = '', element, second] = match;
      const at = from + match.index;
      if (element) addNames(at + first.length + 1, at + first.length + element.length - 1, 'raw', place);
      if (addRegister(at, first, second, at + whole.length - (second?.length ?? 0), place)) continue;
      if (role === 'register' && second === undefined)
        add('register', `${place.block}.${first}`, first, at, at + first.length, false);
      else if (place.ofFields && isKnown('field', first))
        add('field', first, first, at, at + first.length, false);
    }
  };
  for (const { use, place } of all) {
    if (use.defines) continue;
    if (use.role === 'register' || use.role === 'raw') addNames(use.from, use.to, use.role, place);
    else add(use.role, qualified(use.role, use.name, place), use.name, use.from, use.to, false);
  }
  occurrences.sort((a, b) => a.from - b.from || a.to - b.to);
  return { occurrences, definitions };
}

/** What stands at a place; at the end of a word it is that word's. */
export const occurrenceAt = ({ occurrences }: Symbols, at: number): Occurrence | undefined =>
  occurrences.find(({ from, to }) => from <= at && at < to) ?? occurrences.find(({ to }) => to === at);

export const usesOf = ({ occurrences }: Symbols, key: string): Occurrence[] =>
  occurrences.filter((each) => each.key === key);

const IDENTIFIER = /^[A-Za-z_][A-Za-z0-9_]*$/;

export interface TextChange {
  from: number;
  to: number;
  insert: string;
}

/** Things of which all uses are in the text: others stand in the tables of the part as well, or in rows of settings. */
const RENAMABLE: ReadonlySet<Role> = new Set(['block', 'register', 'field', 'stage']);

export const isRenamable = ({ role }: Occurrence): boolean => RENAMABLE.has(role);

/** Another name for what stands at a place, wherever it is used. */
export function renamed(text: string, at: number, name: string): Result<TextChange[]> {
  const symbols = symbolsOf(text);
  const chosen = occurrenceAt(symbols, at);
  const place = 'rename';
  if (!chosen) return fail({ place, message: 'no name stands here' });
  if (!isRenamable(chosen))
    return fail({
      place,
      message: `a ${chosen.role} is used where this text does not reach: in the tables, or in rows of settings`,
    });
  if (!symbols.definitions.has(chosen.key))
    return fail({ place, message: `${chosen.name} is not given in this text` });
  if (name === '') return fail({ place, message: 'a name is needed' });
  const isStrict = chosen.role === 'block' || chosen.role === 'register';
  if (isStrict && !IDENTIFIER.test(name))
    return fail({
      place,
      message: `"${name}" is no name for a ${chosen.role}: a letter or "_", then letters, digits and "_"`,
    });
  const key = chosen.key.slice(0, chosen.key.length - chosen.name.length) + name;
  if (name !== chosen.name && symbols.definitions.has(key))
    return fail({ place, message: `there is a ${chosen.role} ${name} already` });
  const insert = isStrict ? name : printWord(name);
  return ok(usesOf(symbols, chosen.key).map(({ from, to }) => ({ from, to, insert })));
}

export interface Completions {
  /** Where the word that is completed begins. */
  from: number;
  options: { label: string; kind: Role | 'word' }[];
}

const BEFORE = /[\w.{}*|-]*$/;
/** Variables of expressions, and words of steps. */
const VARIABLES = ['b', 'p', 'n', 'i', 'm', 'v', 'this', 'pads'];

/** What could stand at a place: the forms are read up to it, and say what they would take next. */
export function completionsAt(text: string, at: number): Completions | undefined {
  const start = text.lastIndexOf('\n', at - 1) + 1;
  const word = BEFORE.exec(text.slice(start, at))?.[0] ?? '';
  const from = at - word.length;
  const head = text.slice(0, from);
  if (/#/.test(text.slice(start, from).replace(/"(?:[^"\\]|\\.)*"/g, ''))) return undefined;
  const { line, above } = lastLine(head);
  const marks = new Marks();
  const wanted = { literals: new Set<string>(), roles: new Set<Role | 'raw'>() };
  const forms = formsUnder(above.map((each) => head.slice(each.start, each.end)));
  const words = new Set<string>();
  if (!line) for (const { keyword } of forms) if (keyword) words.add(keyword);
  if (line) {
    marks.wanted = wanted;
    const cursor = new Cursor(head, line.start, head.length, marks);
    const form = formFor(forms, cursor);
    if (!form) return undefined;
    try {
      readLine(form, cursor);
    } catch (error) {
      // What could come next is known by then.
      if (!(error instanceof Mistake)) throw error;
    }
    for (const literal of wanted.literals) if (/^[A-Za-z]/.test(literal)) words.add(literal);
  }
  const symbols = symbolsOf(text);
  const block = blockAround(head);
  const options = new Map<string, Role | 'word'>();
  for (const each of words) options.set(each, 'word');
  for (const { role, name, key } of symbols.definitions.values()) {
    if (wanted.roles.has(role)) options.set(role === 'register' ? key.slice('register '.length) : name, role);
    if (!wanted.roles.has('raw') || role !== 'register') continue;
    const whole = key.slice('register '.length);
    if (block !== undefined && whole.startsWith(`${block}.`)) options.set(name, role);
    options.set(whole, role);
  }
  if (wanted.roles.has('raw')) for (const each of VARIABLES) options.set(each, 'word');
  return { from, options: [...options].map(([label, kind]) => ({ label, kind })) };
}

/** The line that goes on at the end of a text, and the lines that it stands under; no line where none has begun. */
function lastLine(head: string): { line?: TextLine; above: TextLine[] } {
  // A word at the end makes the line go on; where one begins, its indentation says under which.
  const probe = `${head}x`;
  const chain: TextLine[] = [];
  let { lines } = linesOf(probe);
  for (let below = lines.at(-1); below; below = lines.at(-1)) {
    chain.push(below);
    lines = below.children;
  }
  const line = chain.pop();
  if (!line) return { above: [] };
  return line.start === head.length ? { above: chain } : { line, above: chain };
}

const blockAround = (head: string): string | undefined => [...head.matchAll(/^block\s+(\w+)/gm)].at(-1)?.[1];
