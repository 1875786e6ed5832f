import { loadDevice } from '@/core/device/compile/load';
import { type DraftTask, draftKeeper } from '@/core/import/compose/draft-task';

/** Reads the tables of a part that is being brought in, off the page: they may have tens of thousands of rows. */
const keeper = draftKeeper(loadDevice);

self.onmessage = (event: MessageEvent<DraftTask>) => {
  const answer = keeper(event.data);
  if (answer) self.postMessage(answer);
};
