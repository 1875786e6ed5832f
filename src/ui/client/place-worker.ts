import type { Placing } from '@/core/place/model/answer';
import type { Move } from '@/core/place/model/moves';
import type { PlaceAnswer, PlaceProgress, PlaceTask, RoomTask } from '@/core/place/place-task';

/** A placer at work: what comes of it, and a way to stop. */
export interface PlacerRun {
  result: Promise<{ placing: Placing } | { failed: string } | 'stopped'>;
  cancel(): void;
}

const startWorker = (): Worker =>
  new Worker(new URL('../../workers/place.worker.ts', import.meta.url), { type: 'module' });

/** The moves that make room for a net; undefined where there are none, or the placer cannot be had. */
export function findRoom(task: RoomTask): Promise<Move[] | undefined> {
  return new Promise((done) => {
    const worker = startWorker();
    const end = (moves: Move[] | undefined): void => {
      worker.terminate();
      done(moves);
    };
    worker.onmessage = ({ data }: MessageEvent<PlaceAnswer>) =>
      end(data.kind === 'room' ? data.moves : undefined);
    worker.onerror = (event) => {
      event.preventDefault();
      end(undefined);
    };
    worker.postMessage(task);
  });
}

export function runPlacer(task: PlaceTask, onProgress: (progress: PlaceProgress) => void): PlacerRun {
  const worker = startWorker();
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
    else if (answer.kind === 'failed') settle({ failed: answer.message });
  };
  worker.onerror = (event) => {
    event.preventDefault();
    settle({ failed: 'the placer stopped unexpectedly' });
  };
  worker.postMessage(task);
  return { result, cancel: () => settle('stopped') };
}
