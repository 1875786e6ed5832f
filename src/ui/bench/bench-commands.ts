import { answerBenchKeys, type BenchKey } from '../commands/bench-keys';
import type { WorkspaceState } from '../workspace/context';
import { benchOf } from './bench-store';

/** What keys do while the bench is in sight. */
function doBenchKey(key: BenchKey, { session, derived }: WorkspaceState): void {
  const store = benchOf(session, derived);
  switch (key) {
    case 'anew':
      store.restart();
      return;
    case 'back':
      if (store.canGoBack) store.back();
      return;
    case 'step':
      store.step();
      return;
    case 'stage':
      store.stepStage();
      return;
    case 'run':
      store.runOrPause();
      return;
    case 'trials':
      document.querySelector<HTMLButtonElement>('#run-trials')?.click();
  }
}

answerBenchKeys(doBenchKey);
