import { endCounting } from './counts';
import { closePool } from './db';
import { closeLive } from './live';
import { closePoolOfWork } from './work/pool';

/** Ends everything that a process keeps open, when it is about to end. */
export async function closeServer(): Promise<void> {
  await endCounting();
  await closeLive();
  await closePoolOfWork();
  await closePool();
}
