import { zipSync } from 'fflate';
import { boundProblems } from '@/core/base/problems';
import { fail, formatProblems, ok, type Result } from '@/core/base/result';
import { newId } from '@/core/base/text/new-id';
import { type Comparison, comparePlans } from '@/core/compare/compare';
import { type Derived, derive } from '@/core/derive/derive';
import { type PartForm, REGISTER_FORMS } from '@/core/description/part-forms';
import { wholeText } from '@/core/description/part-text/written';
import { printDevice } from '@/core/description/print-device';
import { hasRecipe } from '@/core/description/recipe';
import type { Correction, DeviceDescription } from '@/core/description/types';
import { compileDevice } from '@/core/device/compile/compile';
import { loadDevice } from '@/core/device/compile/load';
import type { Device } from '@/core/device/device';
import { type PartFacts, partFacts } from '@/core/device/part-facts';
import { parseDevice, readRecipeFile } from '@/core/import/compose/device-files';
import { printTables } from '@/core/import/compose/print-tables';
import { packageSvg } from '@/core/output/board/package-svg';
import { SCHEDULE_COLUMNS, scheduleCsv, scheduleMarkdown, scheduleRows } from '@/core/output/board/schedule';
import type { GeneratedFile } from '@/core/output/code/types';
import { generateFiles, whyNoCode } from '@/core/output/generate';
import { printRegisters } from '@/core/output/registers/print-registers';
import { checkReport, type PlaceReport, placeReport } from '@/core/output/reports/reports';
import { targetById } from '@/core/output/targets';
import { placingEdit } from '@/core/place/model/moves';
import { placePlan } from '@/core/place/place';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { parsePlan } from '@/core/plan/file/plan-file';
import { planFileName } from '@/core/plan/file/print-plan';
import type { Plan } from '@/core/plan/model/types';
import { profileOf } from '@/core/plan/profile';
import { shareEdit, type VariantReport, variantReport } from '@/core/variants/variants';
import type { NewEdit } from '../edit-log';
import { readNewEdit } from '../forms/new-edit';
import { type FormName, formValue } from '../forms/read-form';
import { judgePassword } from '../people/password-strength';

/**
 * The heavy work of the server: everything that reads a file from outside, compiles a part or derives a plan. It runs in worker
 * threads (see `pool.ts`), so that no request keeps the others waiting. Inputs and outputs are plain data.
 */

/** A stored description: what it is known by, and its text where the worker may not have it yet. */
export interface PartInput {
  key: string;
  text?: string;
}

/** The worker does not have the part; it must be asked again with the text. */
export class MissingPart extends Error {}

const MOST_KEPT = 8;
/** Compiled descriptions by part and fingerprint: what they say never changes. The least recently used goes first. */
const devices = new Map<string, Device>();

function deviceOf({ key, text }: PartInput): Device {
  let device = devices.get(key);
  if (!device) {
    if (text === undefined) throw new MissingPart(key);
    const compiled = compileDevice(JSON.parse(text) as DeviceDescription);
    if (!compiled.ok)
      throw new Error(`part ${key} was stored but does not compile: ${formatProblems(compiled.problems)}`);
    device = compiled.value;
  }
  devices.delete(key);
  devices.set(key, device);
  const oldest = devices.keys().next().value;
  if (devices.size > MOST_KEPT && oldest !== undefined) devices.delete(oldest);
  return device;
}

interface PlanOnPart {
  plan: Plan;
  part: PartInput;
}

const derived = ({ plan, part }: PlanOnPart): Result<Derived> => derive(deviceOf(part), plan);

/** A description's text, and what its corrections shall be: those stored with its own, or others instead of all. */
export interface PartToLoad {
  text: string;
  stored?: readonly Correction[];
  replacing?: Correction[];
}

/** What is stored of a description that has been checked. */
export interface LoadedPart {
  head: Pick<DeviceDescription, 'id' | 'name' | 'maker' | 'summary'>;
  fingerprint: string;
  facts: PartFacts;
  text: string;
}

/** The stored corrections with those of a file; the same id counts once, as the file has it. */
function mergedCorrections(stored: readonly Correction[], brought: readonly Correction[]): Correction[] {
  const ids = new Set(brought.map(({ id }) => id));
  return [...stored.filter(({ id }) => !ids.has(id)), ...brought];
}

/** What follows from a plan and is kept with its revision. */
export interface RevisedPlan {
  fingerprint: string;
  findings: ReturnType<typeof checkReport>['findings'];
  files: { target: string; files: GeneratedFile[] }[];
}

const SCHEDULES = {
  csv: { ending: '.pins.csv', print: scheduleCsv },
  md: { ending: '.pins.md', print: scheduleMarkdown },
  svg: { ending: '.package.svg', print: packageSvg },
} as const;
export type ScheduleForm = keyof typeof SCHEDULES;

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

export const jobs = {
  /** The body of a request held to its form. */
  readForm: ({ form, bytes }: { form: FormName; bytes: Uint8Array }): Result<unknown> =>
    formValue(form, bytes),

  judgePassword: ({ password, ...owner }: { password: string; name: string; email: string }): Result<null> =>
    judgePassword(password, owner),

  /** A large edit, held to the schemas of its steps. */
  readNewEdit: ({ body }: { body: Uint8Array }): Result<NewEdit> => readNewEdit(body),

  readPlan: ({ name, text }: { name: string; text: string }): Result<Plan> => parsePlan(name, text),

  /** A plan file's locked nets, as a profile. */
  readProfile: ({ name, text }: { name: string; text: string }): Result<Plan> => {
    const plan = parsePlan(name, text);
    return plan.ok ? ok(profileOf(plan.value)) : plan;
  },

  /** A description read against its schema: its id, and its text in today's format. */
  readPart: ({ name, text }: { name: string; text: string }): Result<{ id: string; text: string }> => {
    const read = parseDevice(name, text);
    return read.ok ? ok({ id: read.value.id, text: JSON.stringify(read.value) }) : read;
  },

  /** A description or a recipe read for the page, as the text of the answer: large objects are not carried between threads. */
  readFile: ({
    kind,
    name,
    text,
  }: {
    kind: 'description' | 'recipe';
    name: string;
    text: string;
  }): string => {
    const read = kind === 'recipe' ? readRecipeFile({ name, text }) : parseDevice(name, text);
    return JSON.stringify(read.ok ? { value: read.value } : { problems: boundProblems(read.problems) });
  },

  /** A large batch: thousands of steps on thousands of nets. */
  applyEdit: ({ plan, edit }: { plan: Plan; edit: Edit }): Result<Plan> => applyEdit(plan, edit),

  /** Checks all of a description with its corrections; gives what is stored of it. */
  loadPart: ({ text, stored = [], replacing }: PartToLoad): Result<LoadedPart> => {
    const { corrections: brought = [], ...original } = JSON.parse(text) as DeviceDescription;
    const corrections = replacing ?? mergedCorrections(stored, brought);
    const description = corrections.length > 0 ? { ...original, corrections } : original;
    const loaded = loadDevice(description);
    if (!loaded.ok) return loaded;
    const { id, name, maker, summary } = description;
    return ok({
      head: { id, name, maker, summary },
      fingerprint: loaded.value.fingerprint,
      facts: partFacts(loaded.value),
      text: JSON.stringify(description),
    });
  },

  counts: (input: PlanOnPart): { errors: number; warnings: number } => {
    const result = derived(input);
    const { error, warning } = result.ok ? result.value.counts : { error: 0, warning: 0 };
    return { errors: error, warnings: warning };
  },

  generate: (
    input: PlanOnPart & { target: string },
  ): Result<{ fingerprint: string; files: GeneratedFile[]; image: Record<string, number> }> => {
    const target = targetById(input.target);
    if (!target) return fail({ place: 'target', message: `there is no target "${input.target}"` });
    const result = derived(input);
    if (!result.ok) return result;
    const lack = whyNoCode(target, result.value);
    if (lack !== undefined)
      return fail({ place: 'target', message: `no ${target.title} for this plan: ${lack}` });
    return ok({
      fingerprint: result.value.fingerprint,
      files: generateFiles(target, result.value),
      image: Object.fromEntries(
        result.value.lowered.image.map(({ register, planned }) => [register.name, planned]),
      ),
    });
  },

  check: (input: PlanOnPart): Result<ReturnType<typeof checkReport>> => {
    const result = derived(input);
    return result.ok ? ok(checkReport(result.value)) : result;
  },

  /** Pads for nets that have none, as an edit; null where there is no way, or nothing to do. */
  place: (input: PlanOnPart & { keep: boolean }): Result<{ edit: Edit | null; report: PlaceReport }> => {
    const result = derived(input);
    if (!result.ok) return result;
    const { plan, device, pkg } = result.value;
    const placing = placePlan(device, pkg, plan, { keep: input.keep });
    const found = placing.status === 'optimal' || placing.status === 'feasible';
    return ok({
      edit: found && placing.moves.length > 0 ? placingEdit(placing.moves, 'place') : null,
      report: placeReport(plan, placing),
    });
  },

  /** What is kept of a revision beside its plan. */
  revise: (input: PlanOnPart & { targets: string[] }): Result<RevisedPlan> => {
    const result = derived(input);
    if (!result.ok) return result;
    const { fingerprint } = result.value;
    const files = input.targets.flatMap((id) => {
      const target = targetById(id);
      if (!target || whyNoCode(target, result.value) !== undefined) return [];
      return [{ target: id, files: generateFiles(target, result.value) }];
    });
    return ok({ fingerprint, findings: checkReport(result.value).findings, files });
  },

  /** Texts of both parts come along: a worker asks for one part at a time. */
  compare: (input: { from: PlanOnPart; to: PlanOnPart; target: string }): Result<Comparison> => {
    const sides = { from: derived(input.from), to: derived(input.to) };
    for (const [place, side] of Object.entries(sides))
      if (!side.ok) return fail(...side.problems.map((one) => ({ ...one, place: `${place}, ${one.place}` })));
    return sides.from.ok && sides.to.ok
      ? ok(comparePlans(sides.from.value, sides.to.value, input.target))
      : fail({ place: 'request', message: 'cannot be compared' });
  },

  /** What variants do not agree on. */
  variants: ({ sides, circuits }: { sides: PlanOnPart[]; circuits: string[] }): Result<VariantReport> => {
    const all = sides.map((side) => ({ plan: side.plan, result: derived(side) }));
    const problems = all.flatMap(({ plan, result }) =>
      result.ok ? [] : result.problems.map((one) => ({ ...one, place: `${plan.name}, ${one.place}` })),
    );
    if (problems.length > 0) return fail(...problems);
    return ok(
      variantReport(
        all.flatMap(({ result }) => (result.ok ? [result.value] : [])),
        circuits,
      ),
    );
  },

  /** The edit that makes a net of one variant what it is in another; null where nothing is to be done. */
  shareEdit: (input: {
    from: PlanOnPart;
    to: PlanOnPart;
    place: { circuit: string; net: string };
    field?: string | undefined;
  }): Result<Edit | null> => {
    const [from, to] = [derived(input.from), derived(input.to)];
    if (!from.ok) return from;
    if (!to.ok) return to;
    return ok(shareEdit(from.value, to.value, input.place, newId, input.field) ?? null);
  },

  schedule: (
    input: PlanOnPart & { as: ScheduleForm; tag?: string },
  ): Result<{ name: string; text: string }> => {
    const result = derived(input);
    if (!result.ok) return result;
    const { ending, print } = SCHEDULES[input.as];
    return ok({ name: planFileName(input.plan, { ending, tag: input.tag }), text: print(result.value) });
  },

  scheduleTable: (
    input: PlanOnPart,
  ): Result<{ part: string; package: string; fingerprint: string; rows: string[][] }> => {
    const result = derived(input);
    if (!result.ok) return result;
    const { device, pkg, fingerprint } = result.value;
    return ok({
      part: device.description.name,
      package: pkg.name,
      fingerprint,
      rows: scheduleRows(result.value).map((row) => SCHEDULE_COLUMNS.map((column) => row[column])),
    });
  },

  exportPart: (input: {
    part: PartInput;
    as: Exclude<PartForm, 'corrections'>;
  }): Result<{ ending: string; type: string; body: string | Uint8Array }> => {
    const device = deviceOf(input.part);
    const { original } = device;
    switch (input.as) {
      case 'text':
        return ok({
          ending: '.part',
          type: 'text/plain; charset=utf-8',
          body: wholeText(original),
        });
      case 'json':
        return ok({
          ending: '.device.json',
          type: 'application/json; charset=utf-8',
          body: printDevice(original),
        });
      case 'tables': {
        const { pinout, functions, recipe } = printTables(original);
        const files: Record<string, Uint8Array> = {
          'pinout.csv': bytes(pinout),
          'functions.csv': bytes(functions),
          'recipe.part': bytes(recipe),
        };
        if (original.corrections)
          files['corrections.json'] = bytes(`${JSON.stringify(original.corrections, null, 2)}\n`);
        return ok({ ending: '.tables.zip', type: 'application/zip', body: zipSync(files) });
      }
      default: {
        if (!hasRecipe(device.description.recipe))
          return fail({ place: 'part', message: 'has no registers yet' });
        const form = REGISTER_FORMS.find(({ id }) => id === input.as);
        if (!form) return fail({ place: 'as', message: `"${input.as}" is no form of a part` });
        return ok({ ending: form.ending, type: form.type, body: printRegisters[form.id](device) });
      }
    }
  },

  /** Does nothing for a while: by this the limits of the pool are tested. */
  spin: ({ milliseconds, megabytes }: { milliseconds: number; megabytes: number }): number => {
    const until = Date.now() + milliseconds;
    const held: number[][] = [];
    while (Date.now() < until)
      if (held.length < megabytes) held.push(new Array<number>(131_072).fill(held.length));
    return held.length;
  },
};

export type Jobs = typeof jobs;
export type JobName = keyof Jobs;
