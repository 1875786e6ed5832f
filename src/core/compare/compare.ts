import { diffLines } from 'diff';
import type { Derived } from '../derive/derive';
import { generateFiles, whyNoCode } from '../output/generate';
import { targetById } from '../output/targets';
import { alignNets } from './align';
import { type ApplicationChanges, applicationChanges } from './application';
import { type FindingLine, findingChanges } from './findings';
import { type PlanChanges, planChanges } from './plan-changes';
import { type RegisterChange, registerChanges } from './registers';

export const COMPARISON_FORMAT = 'mavrek-comparison/1';

/** One of the two that are compared. */
export interface ComparedPlan {
  name: string;
  revision: string;
  part: string;
  package: string;
  fingerprint: string;
  findings: { error: number; warning: number; note: number };
}

/** A generated file that differs: lines with `+`, `-` or a space before them, a line `…` for those left out. */
export interface CodeChange {
  path: string;
  added: number;
  removed: number;
  lines: string[];
}

/** What differs between two plans: what they say, and everything that follows from it. */
export interface Comparison extends PlanChanges {
  format: typeof COMPARISON_FORMAT;
  from: ComparedPlan;
  to: ComparedPlan;
  findings: { fresh: FindingLine[]; cured: FindingLine[] };
  /** Null where the parts have other registers. */
  registers: RegisterChange[] | null;
  application: ApplicationChanges;
  code: { target: string; files: CodeChange[]; why?: string };
  /** Nothing differs that either plan says. */
  same: boolean;
}

const AROUND = 2;

export function comparePlans(from: Derived, to: Derived, target = 'c'): Comparison {
  const aligned = alignNets(from.plan, to.plan);
  const changes = planChanges(from, to, aligned);
  const { added, gone, moved, changed } = changes.nets;
  return {
    format: COMPARISON_FORMAT,
    from: comparedPlan(from),
    to: comparedPlan(to),
    ...changes,
    findings: findingChanges(from, to, aligned),
    registers: registerChanges(from, to) ?? null,
    application: applicationChanges(from, to, aligned),
    code: codeChanges(from, to, target),
    same: [added, gone, moved, changed, changes.others].every((list) => list.length === 0),
  };
}

const comparedPlan = ({ plan, device, pkg, fingerprint, counts }: Derived): ComparedPlan => ({
  name: plan.name,
  revision: plan.revision,
  part: device.description.name,
  package: pkg.name,
  fingerprint,
  findings: { error: counts.error, warning: counts.warning, note: counts.note },
});

function codeChanges(from: Derived, to: Derived, id: string): Comparison['code'] {
  const target = targetById(id);
  if (!target) return { target: id, files: [], why: `there is no language ${id}` };
  const why = whyNoCode(target, from) ?? whyNoCode(target, to);
  if (why !== undefined) return { target: id, files: [], why };
  const [before, after] = [generateFiles(target, from), generateFiles(target, to)];
  // The first file of one is that of the other, whatever prefixes they have.
  const files = Array.from({ length: Math.max(before.length, after.length) }, (_, at) => {
    const [was, is] = [before[at]?.text ?? '', after[at]?.text ?? ''];
    return { path: after[at]?.path ?? before[at]?.path ?? '', ...changedLines(was, is) };
  });
  return { target: id, files: files.filter((one) => one.added + one.removed > 0) };
}

function changedLines(was: string, is: string): Omit<CodeChange, 'path'> {
  const all = diffLines(was, is).flatMap(({ value, added, removed }) =>
    value
      .replace(/\n$/, '')
      .split('\n')
      .map((line) => `${added ? '+' : removed ? '-' : ' '}${line}`),
  );
  const near = new Uint8Array(all.length);
  all.forEach((line, at) => {
    if (line.startsWith(' ')) return;
    near.fill(1, Math.max(0, at - AROUND), at + AROUND + 1);
  });
  const lines: string[] = [];
  all.forEach((line, at) => {
    if (near[at]) lines.push(line);
    else if (lines.at(-1) !== '…') lines.push('…');
  });
  return {
    added: all.filter((line) => line.startsWith('+')).length,
    removed: all.filter((line) => line.startsWith('-')).length,
    lines,
  };
}
