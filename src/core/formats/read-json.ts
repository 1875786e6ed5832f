import type { ErrorObject, ValidateFunction } from 'ajv';
import { findNodeAtLocation, type Node, type ParseError, parseTree, printParseErrorCode } from 'jsonc-parser';
import { fail, ok, type Problem, type Result } from '../result';

/** Larger files are refused unread: the largest real plan is a hundredth of this. */
export const LARGEST_FILE_BYTES = 2_000_000;
const DEEPEST = 60;
const MOST_PROBLEMS = 20;

/** "plan.json:12:5" of an offset into a text. Rows and columns count from 1. */
function placeAt(name: string, text: string, offset: number): string {
  const before = text.slice(0, offset);
  const row = before.split('\n').length;
  return `${name}:${row}:${offset - before.lastIndexOf('\n')}`;
}

/** A value out of a file together with a way to say where in the file each part of it stands. */
export interface ReadJson {
  value: unknown;
  placeOf(path: readonly (string | number)[]): string;
}

/** Reads strict JSON from outside. Refuses what is too large or too deep before it costs anything. */
export function readJson(name: string, text: string, largest = LARGEST_FILE_BYTES): Result<ReadJson> {
  if (text.length > largest) {
    return fail({ place: name, message: `the file is larger than ${largest / 1_000_000} MB` });
  }
  const deep = tooDeepAt(text);
  if (deep !== undefined)
    return fail({ place: placeAt(name, text, deep), message: `nested deeper than ${DEEPEST} levels` });
  const errors: ParseError[] = [];
  const root = parseTree(text, errors, { disallowComments: true, allowTrailingComma: false });
  const first = errors[0];
  if (first || !root) {
    const what = first ? words(printParseErrorCode(first.error)) : 'the file is empty';
    return fail({ place: placeAt(name, text, first?.offset ?? 0), message: `not valid JSON: ${what}` });
  }
  return ok({
    // JSON.parse keeps "__proto__" an ordinary key, which the schemas then refuse.
    value: JSON.parse(text),
    placeOf: (path) => placeAt(name, text, (nearest(root, path) ?? root).offset),
  });
}

function nearest(root: Node, path: readonly (string | number)[]): Node | undefined {
  for (let length = path.length; length >= 0; length--) {
    const node = findNodeAtLocation(root, path.slice(0, length));
    if (node) return node;
  }
  return undefined;
}

const words = (code: string): string => code.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();

function tooDeepAt(text: string): number | undefined {
  let depth = 0;
  let inString = false;
  for (let offset = 0; offset < text.length; offset++) {
    const char = text[offset];
    if (inString) {
      if (char === '\\') offset++;
      else if (char === '"') inString = false;
    } else if (char === '"') inString = true;
    else if (char === '{' || char === '[') {
      if (++depth > DEEPEST) return offset;
    } else if (char === '}' || char === ']') depth--;
  }
  return undefined;
}

/** JSON-Schema errors → problems, each with the place of the offending value. */
export function schemaProblems(validate: ValidateFunction, json: ReadJson): Problem[] {
  const errors = (validate.errors ?? []).filter((error) => !['oneOf', 'anyOf', 'if'].includes(error.keyword));
  const shown = errors.length > 0 ? errors : (validate.errors ?? []);
  const seen = new Set<string>();
  const problems: Problem[] = [];
  for (const error of shown) {
    const path = error.instancePath.split('/').slice(1).map(unescapePointer);
    const problem = { place: json.placeOf(path), message: sentence(error, path) };
    const key = `${problem.place} ${problem.message}`;
    if (!seen.has(key)) problems.push(problem);
    seen.add(key);
  }
  return problems.slice(0, MOST_PROBLEMS);
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
  return `${where} ${error.message ?? 'is not valid'}`;
}
