import type { DeviceDescription } from '../device/types';
import type { Plan } from '../plan/types';
import { compileDevice } from '../recipe/device';
import { formatProblems } from '../result';
import type { PlaceOptions, Placing } from './place';
import { placePlan } from './place';

/** What the page asks its worker, and what comes back. */
export interface PlaceTask {
  description: DeviceDescription;
  plan: Plan;
  options: Omit<PlaceOptions, 'progress' | 'packages'>;
}
export interface PlaceProgress {
  nodes: number;
  best?: number;
  bound: number;
}
export type PlaceAnswer =
  | { kind: 'progress'; progress: PlaceProgress }
  | { kind: 'done'; placing: Placing }
  | { kind: 'failed'; message: string };

/** Answers a task; in a worker, so that the page stays quick. */
export function answerPlaceTask(
  { description, plan, options }: PlaceTask,
  tell: (progress: PlaceProgress) => void,
): PlaceAnswer {
  const device = compileDevice(description);
  if (!device.ok) return { kind: 'failed', message: formatProblems(device.problems) };
  const pkg = device.value.packages.get(plan.package);
  if (!pkg) return { kind: 'failed', message: `the part has no package ${plan.package}` };
  const { problem: _kept, ...placing } = placePlan(device.value, pkg, plan, {
    ...options,
    progress: (progress) => {
      tell(progress);
      return true;
    },
  });
  return { kind: 'done', placing };
}
