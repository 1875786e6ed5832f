import type { Placing } from '@/core/placing/place';
import type { PlaceAnswer, PlaceProgress, PlaceTask } from '@/core/placing/place-task';

/** A placer at work: what comes of it, and a way to stop. */
export interface PlacerRun {
  result: Promise<{ placing: Placing } | { failed: string } | 'stopped'>;
  cancel(): void;
}

export function runPlacer(task: PlaceTask, onProgress: (progress: PlaceProgress) => void): PlacerRun {
  const worker = new Worker(new URL('../../workers/place.worker.ts', import.meta.url), { type: 'module' });
  let settle: (result: Awaited<PlacerRun['result']>) => void = () => undefined;
  const result: PlacerRun['result'] = new Promise((done) => {
    settle = (value) => {
      worker.terminate();
      done(value);
    };
  });
  worker.onmessage = (event: MessageEvent<PlaceAnswer>) => {
    const answer = event.data;
    if (answer.kind === 'progress') onProgress(answer.progress);
    else if (answer.kind === 'done') settle({ placing: answer.placing });
    else settle({ failed: answer.message });
  };
  worker.onerror = (event) => {
    event.preventDefault();
    settle({ failed: 'the placer stopped unexpectedly' });
  };
  worker.postMessage(task);
  return { result, cancel: () => settle('stopped') };
}
