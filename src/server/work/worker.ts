import { parentPort } from 'node:worker_threads';
import { type JobName, jobs, MissingPart } from './jobs';

/** A worker thread: one job at a time, in the order they come. Bundled by `scripts/build-server.mjs`. */
export interface JobMessage {
  id: number;
  job: JobName;
  input: unknown;
}
export type JobAnswer =
  | { id: number; value: unknown }
  | { id: number; missing: true }
  | { id: number; error: string };

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
