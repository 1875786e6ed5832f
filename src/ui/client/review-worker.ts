import type { ReviewAnswer, ReviewTask } from '@/core/existing-code/review-task';

/** Starts a review; the function that comes back stops it. */
export function startReview(task: ReviewTask, onAnswer: (answer: ReviewAnswer) => void): () => void {
  const worker = new Worker(new URL('../../workers/review.worker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = ({ data }: MessageEvent<ReviewAnswer>) => {
    worker.terminate();
    onAnswer(data);
  };
  worker.onerror = (event) => {
    event.preventDefault();
    worker.terminate();
    onAnswer({ kind: 'failed', message: 'the code could not be followed to its end' });
  };
  worker.postMessage(task);
  return () => worker.terminate();
}
