import { answerBenchTask, type BenchTask } from '@/core/bench/bench-task';

/** Trials, faults and dumps of traces, off the page. */
self.onmessage = (event: MessageEvent<BenchTask>) => {
  for (const answer of answerBenchTask(event.data)) self.postMessage(answer);
};
