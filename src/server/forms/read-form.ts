import { type AnyObjectSchema, ValidationError } from 'yup';
import { extendJsonShape, newJsonShape } from '@/core/base/json/json-shape';
import { LIMITS } from '@/core/base/limits';
import { append } from '@/core/base/lists';
import { boundProblems, type Problem } from '@/core/base/problems';
import { fail, ok, type Result } from '@/core/base/result';
import * as all from './forms';

/** A body's bytes held to a form. Small ones in the request's thread, large ones in a worker: `readForm` in `app/api/http.ts`. */

export type FormName = {
  [Name in keyof typeof all]: Name extends `${string}Form` ? Name : never;
}[keyof typeof all];

const byName = new Map(
  Object.entries(all).map(([name, form]) => [name as FormName, form as AnyObjectSchema]),
);
const names = new Map([...byName].map(([name, form]) => [form, name]));

/** The form of a name; the type says that each has one. */
const formOf = (name: FormName): AnyObjectSchema => byName.get(name) as AnyObjectSchema;

/** The name by which a worker thread knows a form. */
export function formName(form: AnyObjectSchema): FormName {
  const name = names.get(form);
  if (name === undefined) throw new Error('a form that forms.ts does not have');
  return name;
}

/** Text → the value, or that it is none. */
export function parseBody(bytes: Uint8Array): Result<unknown> {
  try {
    return ok(JSON.parse(new TextDecoder().decode(bytes)));
  } catch {
    return fail({ place: 'request', message: 'is not valid JSON' });
  }
}

/** What Yup says of a field, as far as it bounds work. */
interface Described {
  type: string;
  fields?: Record<string, Described>;
  innerType?: Described;
  tests: { name?: string; params?: Record<string, unknown> }[];
}
const described = new Map<FormName, Described>();

function descriptionOf(name: FormName): Described {
  const kept = described.get(name) ?? (formOf(name).describe() as unknown as Described);
  described.set(name, kept);
  return kept;
}

/**
 * Keys that a form does not have, and lists longer than it takes, before anything in them is looked at: validating goes through
 * every element, and makes an error for each.
 */
function outlineProblems(form: Described, value: unknown, place: string): Problem[] {
  if (Array.isArray(value)) {
    const most = form.tests.find((test) => test.name === 'max')?.params?.max;
    if (typeof most === 'number' && value.length > most)
      return [
        { place: place || 'request', message: `has ${value.length} entries; at most ${most} are taken` },
      ];
    const { innerType } = form;
    return innerType
      ? value.flatMap((entry, at) => outlineProblems(innerType, entry, `${place}[${at}]`))
      : [];
  }
  if (typeof value !== 'object' || value === null || !form.fields) return [];
  const { fields } = form;
  const problems: Problem[] = [];
  for (const [key, entry] of Object.entries(value)) {
    const at = place === '' ? key : `${place}.${key}`;
    const field = Object.hasOwn(fields, key) ? fields[key] : undefined;
    if (field) append(problems, outlineProblems(field, entry, at));
    else problems.push({ place: place || 'request', message: `has an unknown key "${key.slice(0, 80)}"` });
  }
  return problems;
}

/** The value that a form takes, or a problem for each wrong field, as many as people read. */
export function formValue(name: FormName, bytes: Uint8Array): Result<unknown> {
  const body = parseBody(bytes);
  if (!body.ok) return body;
  const outline = outlineProblems(descriptionOf(name), body.value, '');
  if (outline.length > 0) return fail(...boundProblems(outline, LIMITS.formProblems));
  try {
    return ok(formOf(name).strict().noUnknown().validateSync(body.value, { abortEarly: false }));
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const inner = error.inner.length > 0 ? error.inner : [error];
    const problems: Problem[] = inner.map((wrong) => ({
      place: wrong.path || 'request',
      message: wrong.errors[0] ?? wrong.message,
    }));
    return fail(...boundProblems(problems, LIMITS.formProblems));
  }
}

/** Bodies above either of these are read in a worker thread. */
const MOST_BYTES_HERE = 64_000;
const MOST_VALUES_HERE = 100;

/** Whether a body is read quickly enough to do it in the thread that answers everybody. */
export function isSmall(bytes: Uint8Array, mostValues = MOST_VALUES_HERE): boolean {
  if (bytes.length > MOST_BYTES_HERE) return false;
  const shape = newJsonShape();
  extendJsonShape(shape, bytes);
  return shape.values <= mostValues;
}
