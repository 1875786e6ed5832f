import { answerPlaceTask, type PlaceAnswer, type PlaceTask, type RoomTask } from '@/core/place/place-task';

/** The placer, off the page. */
const say = (answer: PlaceAnswer): void => self.postMessage(answer);

self.onmessage = (event: MessageEvent<PlaceTask | RoomTask>) => {
  say(answerPlaceTask(event.data, (progress) => say({ kind: 'progress', progress })));
};
