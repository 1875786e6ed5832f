import { newId } from '@/core/base/text/new-id';
import { answerReviewTask, type ReviewAnswer, type ReviewTask } from '@/core/existing-code/review-task';

/** Follows code, off the page. */
self.onmessage = ({ data }: MessageEvent<ReviewTask>) => {
  const answer: ReviewAnswer = answerReviewTask(data, newId);
  self.postMessage(answer);
};
