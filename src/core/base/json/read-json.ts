import type { ErrorObject, ValidateFunction } from 'ajv';
import { findNodeAtLocation, type Node, type ParseError, parseTree, printParseErrorCode } from 'jsonc-parser';
import { LIMITS, limitText, tooLarge } from '../limits';
import type { Problems } from '../problems';
import { fail, ok, type Result } from '../result';

const DEEPEST = 60;

/** Rows and columns of offsets into a text, both counted from 1. Reads the text once. */
export function placesIn(name: string, text: string): (offset: number) => string {
  let starts: number[] | undefined;
  return (offset) => {
    starts ??= lineStarts(text);
    let low = 0;
    let high = starts.length - 1;
    while (low < high) {
      const middle = Math.ceil((low + high) / 2);
      if ((starts[middle] ?? 0) <= offset) low = middle;
      else high = middle - 1;
    }
    return `${name}:${low + 1}:${offset - (starts[low] ?? 0) + 1}`;
  };
}

function lineStarts(text: string): number[] {
  const starts = [0];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
  return starts;
}

/** A value out of a file together with a way to say where in the file each part of it stands. */
export interface ReadJson {
  value: unknown;
  placeOf(path: readonly (string | number)[]): string;
}

/** Reads strict JSON from outside. Refuses what is too large or too deep before it costs anything. */
export function readJson(
  name: string,
  text: string,
  limit: 'planBytes' | 'deviceBytes' = 'planBytes',
): Result<ReadJson> {
  if (text.length > LIMITS[limit]) return fail({ place: name, message: `the file ${tooLarge(limit)}` });
  const placeAt = placesIn(name, text);
  const odd = oddShape(text);
  if (odd) return fail({ place: placeAt(odd.offset), message: odd.message });
  const errors: ParseError[] = [];
  const root = parseTree(text, errors, { disallowComments: true, allowTrailingComma: false });
  const first = errors[0];
  if (first || !root) {
    const what = first ? words(printParseErrorCode(first.error)) : 'the file is empty';
    return fail({ place: placeAt(first?.offset ?? 0), message: `not valid JSON: ${what}` });
  }
  let value: unknown;
  try {
    // JSON.parse keeps "__proto__" an ordinary key, which the schemas then refuse.
    value = JSON.parse(text);
  } catch (error) {
    // The tree's parser is more lenient in a few places, such as control characters in strings.
    const at = /position (\d+)/.exec((error as Error).message)?.[1];
    return fail({ place: placeAt(Number(at ?? 0)), message: 'not valid JSON' });
  }
  return ok({ value, placeOf: (path) => placeAt((nearest(root, path) ?? root).offset) });
}

function nearest(root: Node, path: readonly (string | number)[]): Node | undefined {
  for (let length = path.length; length >= 0; length--) {
    const node = findNodeAtLocation(root, path.slice(0, length));
    if (node) return node;
  }
  return undefined;
}

const words = (code: string): string => code.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();

/** Where a text is nested too deep, or a list or object has too many entries, before anything is built of it. */
function oddShape(text: string): { offset: number; message: string } | undefined {
  const commas: number[] = [];
  let inString = false;
  for (let offset = 0; offset < text.length; offset++) {
    const char = text[offset];
    if (inString) {
      if (char === '\\') offset++;
      else if (char === '"') inString = false;
    } else if (char === '"') inString = true;
    else if (char === '{' || char === '[') {
      commas.push(0);
      if (commas.length > DEEPEST) return { offset, message: `nested deeper than ${DEEPEST} levels` };
    } else if (char === '}' || char === ']') commas.pop();
    else if (char === ',') {
      const count = (commas.pop() ?? 0) + 1;
      commas.push(count);
      if (count >= LIMITS.entries)
        return { offset, message: `more than ${limitText('entries')} in one list` };
    }
  }
  return undefined;
}

/** JSON-Schema errors → problems, each with the place of the offending value. `at` is where the validated value stands. */
export function schemaProblems(
  validate: ValidateFunction,
  json: ReadJson,
  problems: Problems,
  at: readonly (string | number)[] = [],
): void {
  const errors = (validate.errors ?? []).filter((error) => !['oneOf', 'anyOf', 'if'].includes(error.keyword));
  const shown = errors.length > 0 ? errors : (validate.errors ?? []);
  const seen = new Set<string>();
  for (const error of shown) {
    if (problems.full) {
      problems.push({ place: '', message: '' });
      continue;
    }
    const path = [...at, ...error.instancePath.split('/').slice(1).map(unescapePointer)];
    const problem = { place: json.placeOf(path), message: sentence(error, path) };
    const key = `${problem.place} ${problem.message}`;
    if (!seen.has(key)) problems.push(problem);
    seen.add(key);
  }
}

function unescapePointer(part: string): string | number {
  const plain = part.replace(/~1/g, '/').replace(/~0/g, '~');
  return /^\d+$/.test(plain) ? Number(plain) : plain;
}

function sentence(error: ErrorObject, path: readonly (string | number)[]): string {
  const where = path.length === 0 ? 'the file' : path.join('.');
  const { params } = error;
  if (error.keyword === 'additionalProperties')
    return `${where} has an unknown key "${params.additionalProperty}"`;
  if (error.keyword === 'required') return `${where} lacks "${params.missingProperty}"`;
  if (error.keyword === 'enum')
    return `${where} must be one of ${(params.allowedValues as unknown[]).join(', ')}`;
  if (error.keyword === 'const') return `${where} must be "${params.allowedValue}"`;
  if (error.keyword === 'maxItems' || error.keyword === 'maxProperties')
    return `${where} has more than ${params.limit} entries`;
  return `${where} ${error.message ?? 'is not valid'}`;
}
