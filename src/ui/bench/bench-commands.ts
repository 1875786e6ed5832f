import { answerBenchKeys, type BenchKey } from '../commands/bench-keys';
import type { WorkspaceState } from '../workspace/context';
import { benchOf } from './bench-store';

/** What keys do while the bench is in sight. */
function doBenchKey(key: BenchKey, { session, derived }: WorkspaceState): void {
  const store = benchOf(session, derived);
  const { setup, state } = store.recording.play.bench;
  const over = state.operation >= setup.operations.length;
  switch (key) {
    case 'anew':
      store.restart();
      return;
    case 'back':
      if (store.canGoBack) store.back();
      return;
    case 'step':
      if (!over) store.play('step 1');
      return;
    case 'stage':
      if (!over) store.runTo({ kind: 'stage', stage: store.nextStage });
      return;
    case 'run':
      if (over) store.run(!store.running);
      else store.play('initialise');
      return;
    case 'trials':
      document.querySelector<HTMLButtonElement>('#run-trials')?.click();
  }
}

answerBenchKeys(doBenchKey);
