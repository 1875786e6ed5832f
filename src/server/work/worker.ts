import { readlinkSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import { type JobName, jobs, MissingPart } from './jobs';

/** A worker thread: one job at a time, in the order they come. Bundled by `scripts/build-server.mjs`. */
export interface JobMessage {
  id: number;
  job: JobName;
  input: unknown;
}
/** The first thing that a worker says. */
export interface Hello {
  thread: number | undefined;
}
export type JobAnswer =
  | { id: number; value: unknown }
  | { id: number; missing: true }
  | { id: number; error: string };

/** The kernel's number of this thread, by which others see what processor time it has had; undefined where there is no such thing. */
function threadNumber(): number | undefined {
  try {
    return Number(readlinkSync('/proc/thread-self').split('/').at(-1));
  } catch {
    return undefined;
  }
}
parentPort?.postMessage({ thread: threadNumber() } satisfies Hello);

parentPort?.on('message', ({ id, job, input }: JobMessage) => {
  let answer: JobAnswer;
  try {
    answer = { id, value: (jobs[job] as (input: unknown) => unknown)(input) };
  } catch (error) {
    answer =
      error instanceof MissingPart
        ? { id, missing: true }
        : { id, error: error instanceof Error ? (error.stack ?? error.message) : String(error) };
  }
  parentPort?.postMessage(answer);
});
