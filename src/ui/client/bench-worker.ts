import type { BenchAnswer, BenchTask } from '@/core/bench/bench-task';

/** Work of the bench that goes on in a worker, and a way to stop it. */
export interface BenchRun {
  result: Promise<Exclude<BenchAnswer, { kind: 'progress' }> | 'stopped'>;
  stop(): void;
}

export function runBenchTask(task: BenchTask, onProgress?: (done: number, of: number) => void): BenchRun {
  const worker = new Worker(new URL('../../workers/bench.worker.ts', import.meta.url), { type: 'module' });
  let settle: (result: Awaited<BenchRun['result']>) => void = () => undefined;
  const result: BenchRun['result'] = new Promise((done) => {
    settle = (value) => {
      worker.terminate();
      done(value);
    };
  });
  worker.onmessage = ({ data }: MessageEvent<BenchAnswer>) => {
    if (data.kind === 'progress') onProgress?.(data.done, data.of);
    else settle(data);
  };
  worker.onerror = (event) => {
    event.preventDefault();
    settle({ kind: 'failed', message: 'the bench stopped unexpectedly' });
  };
  worker.postMessage(task);
  return { result, stop: () => settle('stopped') };
}
