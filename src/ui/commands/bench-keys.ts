import type { WorkspaceState } from '../workspace/context';

/** What keys do while the bench is in sight. */
export type BenchKey = 'anew' | 'back' | 'step' | 'stage' | 'run' | 'trials';

type Press = (key: BenchKey, workspace: WorkspaceState) => void;

/** The bench is fetched when it is first shown, and says then what its keys do. */
let press: Press | undefined;

export function answerBenchKeys(answer: Press): void {
  press = answer;
}

export const pressBenchKey: Press = (key, workspace) => press?.(key, workspace);
