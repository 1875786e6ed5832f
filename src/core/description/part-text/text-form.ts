import { placesIn, type ReadJson } from '../../base/json/read-json';
import { LIMITS, tooLarge } from '../../base/limits';
import { collectProblems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { RecipeSource } from '../recipe';
import type { Marks } from './cursor';
import { type Json, type LineForm, printLine } from './forms';
import { layOut, type Printed } from './layout';
import { PART_LINES } from './part';
import { gather, type Node, readTree } from './tree';

/**
 * A part's text and its exchange format: reading and printing walk the same forms (`forms.ts`), line by line. What a part has besides
 * its tables is a `recipe`; with pads, pins and functions it is a `description`.
 */
export type TextKind = 'recipe' | 'description';

/** What is there, empty, where the text says nothing of it. */
const EMPTY = {
  packages: [],
  supplies: [],
  padClasses: {},
  peripheralKinds: {},
  peripherals: [],
  notes: {},
} as const;
const EMPTY_RECIPE = {
  settings: {},
  applies: {},
  ports: {},
  fields: {},
  access: {},
  encode: [],
  stages: [],
} as const;

/** Some lines of a part's text → what they say, and no more: examples and fragments. */
export function readPartLines(name: string, text: string): Result<Json> {
  const placeAt = placesIn(name, text);
  const problems = collectProblems();
  const content = gather(readTree(text, placeAt, problems), placeAt, problems);
  return problems.length > 0 ? failWith(problems.list()) : ok(JSON.parse(JSON.stringify(content)));
}

/** A part's text → what its JSON would give. */
export function readPartText(name: string, text: string, kind: TextKind): Result<ReadJson> {
  if (text.length > LIMITS.deviceBytes)
    return fail({ place: name, message: `the file ${tooLarge('deviceBytes')}` });
  const placeAt = placesIn(name, text);
  const problems = collectProblems();
  const tree = readTree(text, placeAt, problems);
  const content = gather(tree, placeAt, problems);
  if (problems.length > 0) return failWith(problems.list());
  const root = complete(content, kind, tree.marks);
  return ok({
    value: JSON.parse(JSON.stringify(root)),
    placeOf: (path) => placeAt(offsetOf(root, path, tree.marks)),
  });
}

/** The port hardware alone, as text and back. */
export const printRecipeText = (recipe: RecipeSource): string => printPartText({ recipe });

export function readRecipeText(name: string, text: string): Result<RecipeSource> {
  const content = readPartLines(name, text);
  if (!content.ok) return content;
  return ok(wholeRecipe((content.value.recipe ?? {}) as Json) as unknown as RecipeSource);
}

/** A recipe with what it must have, empty where nothing is said of it. */
function wholeRecipe({ registers, between, ...hardware }: Json): Json {
  return {
    ...EMPTY_RECIPE,
    ...hardware,
    registers: { blocks: [], ...(registers as Json) },
    ...(between === undefined ? {} : { between: shortBetween(between) }),
  };
}

/** Values for a moment of which nothing else is said are a map in the exchange format. */
function shortBetween(between: unknown): unknown {
  const items = (between ?? []) as { setting: string; values: string[] }[];
  const settings = new Set(items.map(({ setting }) => setting));
  const isPlain = items.every((item) => Object.keys(item).length === 2) && settings.size === items.length;
  return isPlain ? Object.fromEntries(items.map(({ setting, values }) => [setting, values])) : between;
}

function complete(content: Json, kind: TextKind, marks: Marks): Json {
  const { id, name, maker, summary, source, recipe = {}, ...others } = content;
  const device = { id, name, maker, summary, source };
  marks.copy(content, device);
  const bits = wholeRecipe(recipe as Json);
  marks.copy(recipe as Json, bits);
  const root: Json =
    kind === 'recipe'
      ? { format: 'mavrek-recipe/3', device, ...EMPTY, ...others, recipe: bits }
      : { format: 'mavrek-device/3', ...device, ...EMPTY, pads: [], functions: [], ...others, recipe: bits };
  if (kind === 'description')
    root.packages = (root.packages as Json[]).map((each) => {
      if (each.pins !== undefined) return each;
      const full = { ...each, pins: {} };
      marks.copy(each, full);
      return full;
    });
  marks.copy(content, root);
  return root;
}

/** Where the value at a path was said, or the nearest that holds it. */
function offsetOf(root: unknown, path: readonly (string | number)[], marks: Marks): number {
  let at = root;
  let offset = 0;
  for (const step of path) {
    if (at === null || typeof at !== 'object') break;
    offset = marks.get(at, step) ?? offset;
    at = (at as Record<string | number, unknown>)[step];
  }
  return offset;
}

/** What JSON has → the text. Reading the text gives the same. */
export function printPartText(value: object): string {
  const { format: _format, device, ...rest } = value as Json;
  const root: Json = { ...(device as Json | undefined), ...rest };
  const lines: Printed[] = [];
  let group: string | undefined;
  const print = (forms: readonly LineForm[], parent: Json, depth: number): void => {
    for (const form of forms) {
      for (const item of form.target.all(parent)) {
        const next = depth === 0 ? groupOf(form) : group;
        const blankAbove = depth === 0 && (next !== group || form.keyword === 'block');
        group = next;
        lines.push({ text: printLine(form, item), depth, kind: form, above: [], blankAbove, beside: [] });
        if (form.children) print(form.children, item, depth + 1);
      }
    }
  };
  print(PART_LINES, root, 0);
  return layOut(lines);
}

/** Lines that stand together, with a blank line before the next group. */
const GROUPS: readonly (readonly string[])[] = [
  ['part', 'bus'],
  ['setting', 'applies', 'exclude', 'alike', 'between', 'ports'],
  ['block', 'guard'],
  ['field', 'table', 'access', 'invariant', 'names'],
  ['stage'],
  ['supply', 'class'],
  ['kind', 'peripherals', 'interrupts'],
  ['package', 'note', 'forced'],
];
const groupOf = ({ keyword = '' }: LineForm): string =>
  GROUPS.find((group) => group.includes(keyword))?.[0] ?? keyword;

/** The text as it is printed, each line where it stood, with its comments. Lines that are not understood are problems. */
export function formatPartText(name: string, text: string): Result<string> {
  if (text.length > LIMITS.deviceBytes)
    return fail({ place: name, message: `the file ${tooLarge('deviceBytes')}` });
  const placeAt = placesIn(name, text);
  const problems = collectProblems();
  const { nodes, below } = readTree(text, placeAt, problems);
  if (problems.length > 0) return failWith(problems.list());
  const lines: Printed[] = [];
  const print = ({ form, item, line, children }: Node, depth: number): void => {
    if (!form || !item) return;
    lines.push({
      text: printLine(form, item),
      depth,
      kind: form,
      above: line.above,
      blankAbove: line.blankAbove,
      beside: line.beside,
    });
    for (const child of children) print(child, depth + 1);
  };
  for (const node of nodes) print(node, 0);
  return ok(layOut(lines) + below.map((comment) => `# ${comment}`.trimEnd().concat('\n')).join(''));
}
