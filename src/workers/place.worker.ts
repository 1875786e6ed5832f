import { answerPlaceTask, type PlaceAnswer, type PlaceTask } from '@/core/placing/place-task';

/** The placer, off the page. */
const say = (answer: PlaceAnswer): void => self.postMessage(answer);

self.onmessage = (event: MessageEvent<PlaceTask>) => {
  say(answerPlaceTask(event.data, (progress) => say({ kind: 'progress', progress })));
};
