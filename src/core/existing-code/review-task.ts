import { formatProblems } from '../base/result';
import { derive } from '../derive/derive';
import type { DeviceDescription } from '../description/types';
import { compileDevice } from '../device/compile/compile';
import type { Plan } from '../plan/model/types';
import type { PadReading } from '../read-back/read-back';
import type { SourceFile } from './c/preprocess';
import type { Finding } from './finding';
import { reviewCode } from './review';

/** Code to be held against a plan; in a worker, so that the page stays quick. */
export interface ReviewTask {
  description: DeviceDescription;
  plan: Plan;
  files: readonly SourceFile[];
  entries: readonly string[];
  defines: readonly string[];
}

/** What is told of it: plain data, registers by their names. */
export interface ReviewTold {
  findings: (Omit<Finding, 'register'> & { register?: string })[];
  readings: PadReading[];
  asPlanned: number;
  writes: number;
  entries: readonly string[];
  possible: readonly string[];
  missing: readonly string[];
}

export type ReviewAnswer = { kind: 'done'; review: ReviewTold } | { kind: 'failed'; message: string };

export function answerReviewTask(task: ReviewTask, newId: () => string): ReviewAnswer {
  const device = compileDevice(task.description);
  if (!device.ok) return { kind: 'failed', message: formatProblems(device.problems) };
  const derived = derive(device.value, task.plan);
  if (!derived.ok) return { kind: 'failed', message: formatProblems(derived.problems) };
  const { entries, defines } = task;
  const review = reviewCode(derived.value, task.files, { entries, defines }, newId);
  return {
    kind: 'done',
    review: {
      findings: review.findings.map(({ register, ...rest }) => ({
        ...rest,
        ...(register ? { register: register.name } : {}),
      })),
      // Registers are no plain data; of code none is missing.
      readings: review.readings
        .filter((one) => one.state !== 'reset')
        .map((one) => ({ ...one, missing: [] })),
      asPlanned: review.asPlanned,
      writes: review.steps.length,
      entries: review.entries,
      possible: review.possible,
      missing: review.missing,
    },
  };
}
