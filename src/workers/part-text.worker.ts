import { type TextTask, textKeeper } from '@/core/part-meaning/text-task';

/** Loads the part that a text describes, and says what its names mean, off the page. */
const keeper = textKeeper();

self.onmessage = (event: MessageEvent<TextTask>) => {
  self.postMessage(keeper(event.data));
};
