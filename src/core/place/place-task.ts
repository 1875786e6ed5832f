import { formatProblems } from '../base/result';
import type { DeviceDescription } from '../description/types';
import { compileDevice } from '../device/compile/compile';
import { deviceIn } from '../device/compile/package-device';
import type { Net, Placement, Plan } from '../plan/model/types';
import type { PlaceOptions, Placing } from './model/answer';
import type { Move } from './model/moves';
import { placePlan } from './place';
import { swapChain } from './swap';

interface PlacerTask {
  description: DeviceDescription;
  plan: Plan;
}

/** Gives nets their pads. */
export interface PlaceTask extends PlacerTask {
  kind: 'place';
  options: Omit<PlaceOptions, 'progress' | 'packages'>;
}

/** Looks for the shortest chain of moves that makes room for a net on a pad. */
export interface RoomTask extends PlacerTask {
  kind: 'make room';
  net: Net;
  to: Placement;
}
export interface PlaceProgress {
  nodes: number;
  best?: number;
  bound: number;
}
export type PlaceAnswer =
  | { kind: 'progress'; progress: PlaceProgress }
  | { kind: 'done'; placing: Placing }
  /** Absent where there is no such chain. */
  | { kind: 'room'; moves?: Move[] }
  | { kind: 'failed'; message: string };

/** Answers a task; in a worker, so that the page stays quick. */
export function answerPlaceTask(
  task: PlaceTask | RoomTask,
  tell: (progress: PlaceProgress) => void,
): PlaceAnswer {
  const { description, plan } = task;
  const compiled = compileDevice(description);
  if (!compiled.ok) return { kind: 'failed', message: formatProblems(compiled.problems) };
  const device = deviceIn(compiled.value, plan.package);
  const pkg = device.packages.get(plan.package);
  if (!pkg) return { kind: 'failed', message: `the part has no package ${plan.package}` };
  if (task.kind === 'make room') {
    const moves = swapChain(device, pkg, plan, task.net, task.to);
    return moves ? { kind: 'room', moves } : { kind: 'room' };
  }
  const { problem: _kept, ...placing } = placePlan(device, pkg, plan, {
    ...task.options,
    progress: (progress) => {
      tell(progress);
      return true;
    },
  });
  return { kind: 'done', placing };
}
