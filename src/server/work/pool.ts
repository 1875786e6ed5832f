import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { LIMITS, limitText } from '@/core/base/limits';
import { log } from '../log';
import type { JobName, Jobs } from './jobs';
import type { Hello, JobAnswer, JobMessage } from './worker';

/** Heavy work that was not done: it took too long or too much memory, or too much is waiting. For people to read. */
export class WorkRefused extends Error {
  constructor(
    readonly kind: 'too long' | 'too large' | 'busy',
    message: string,
  ) {
    super(message);
  }
}

interface Waiting {
  job: JobName;
  input: unknown;
  limitMs: number;
  resolve(answer: JobAnswer): void;
  reject(error: Error): void;
}

interface Seat {
  worker: Worker;
  current?: Waiting;
  timer?: NodeJS.Timeout;
  /** The kernel's number of the thread, once it has said it. */
  thread?: number;
}

/**
 * Milliseconds of processor time that a thread of this process has had: on a busy machine a job waits for its turn, and that is not its
 * doing. Where the system does not tell, and before the thread has said which it is, time on the clock counts.
 */
function spentBy({ thread }: Seat): number {
  if (thread === undefined) return performance.now();
  try {
    return Number(readFileSync(`/proc/self/task/${thread}/schedstat`, 'utf8').split(' ')[0]) / 1e6;
  } catch {
    return performance.now();
  }
}
const LOOK_MS = 100;

/** Two, so that one long job leaves room for short ones; machines that serve have at least two cores. */
const SEATS = 2;

interface Pool {
  seats: Set<Seat>;
  queue: Waiting[];
  nextId: number;
}
const shared = globalThis as typeof globalThis & { mavrekPoolOfWork?: Pool };

function pool(): Pool {
  shared.mavrekPoolOfWork ??= { seats: new Set(), queue: [], nextId: 1 };
  return shared.mavrekPoolOfWork;
}

/** The bundled worker: with the build that is served, or where tests put it. */
function workerFile(): string {
  const home = process.env.MAVREK_HOME ?? process.cwd();
  const served = process.env.MAVREK_BUILD && join(home, process.env.MAVREK_BUILD, 'worker.cjs');
  return served && existsSync(served) ? served : join(home, '.mavrek', 'worker.cjs');
}

type Input<Name extends JobName> = Parameters<Jobs[Name]>[0];
type Output<Name extends JobName> = ReturnType<Jobs[Name]>;

/**
 * Runs a job in a worker thread. Where the input names a part that the worker does not have, `partText` fetches its text. Throws
 * {@link WorkRefused} when limits of time, memory or waiting are met; the worker is then thrown away and another takes its place.
 */
export async function work<Name extends JobName>(
  job: Name,
  input: Input<Name>,
  options: { partText?: () => Promise<string>; limitMs?: number } = {},
): Promise<Output<Name>> {
  const limitMs = options.limitMs ?? LIMITS.workSeconds * 1000;
  let answer = await ask(job, input, limitMs);
  if ('missing' in answer && options.partText) {
    const { part } = input as { part: { key: string } };
    answer = await ask(job, { ...input, part: { ...part, text: await options.partText() } }, limitMs);
  }
  if ('value' in answer) return answer.value as Output<Name>;
  throw new Error('error' in answer ? `${job}: ${answer.error}` : `${job}: the part is missing`);
}

function ask(job: JobName, input: unknown, limitMs: number): Promise<JobAnswer> {
  const { queue } = pool();
  if (queue.length >= LIMITS.workWaiting)
    return Promise.reject(
      new WorkRefused('busy', 'the server is busy with other work; try again in a moment'),
    );
  return new Promise((resolve, reject) => {
    queue.push({ job, input, limitMs, resolve, reject });
    next();
  });
}

/** Gives waiting jobs to free seats. */
function next(): void {
  const { seats, queue } = pool();
  while (queue.length > 0) {
    const free = [...seats].find((seat) => !seat.current) ?? (seats.size < SEATS ? newSeat() : undefined);
    const waiting = free && queue.shift();
    if (!free || !waiting) return;
    start(free, waiting);
  }
}

function newSeat(): Seat {
  const worker = new Worker(workerFile(), {
    resourceLimits: { maxOldGenerationSizeMb: LIMITS.workMegabytes, stackSizeMb: 4 },
  });
  // A worker that waits for work keeps no process alive.
  worker.unref();
  const seat: Seat = { worker };
  pool().seats.add(seat);
  worker.on('message', (answer: JobAnswer | Hello) => {
    if ('thread' in answer) {
      if (answer.thread !== undefined) seat.thread = answer.thread;
      return;
    }
    const { current } = seat;
    release(seat);
    current?.resolve(answer);
    next();
  });
  worker.on('error', (error: Error & { code?: string }) => {
    const large = error.code === 'ERR_WORKER_OUT_OF_MEMORY';
    log.warn({ err: error.message, job: seat.current?.job }, 'worker ended');
    leave(seat, large ? tooMuchMemory() : error);
  });
  worker.on('exit', () => leave(seat, new Error('the worker ended')));
  return seat;
}

const tooMuchMemory = (): WorkRefused =>
  new WorkRefused(
    'too large',
    `needs more than ${limitText('workMegabytes')} of memory; nothing was changed`,
  );

function start(seat: Seat, waiting: Waiting): void {
  seat.current = waiting;
  seat.worker.ref();
  let [clock, from] = [seat.thread, spentBy(seat)];
  seat.timer = setInterval(() => {
    // It has said meanwhile which thread it is: a new one has done nothing else yet.
    if (clock !== seat.thread) [clock, from] = [seat.thread, 0];
    if (spentBy(seat) - from < waiting.limitMs) return;
    const seconds = waiting.limitMs / 1000;
    log.warn({ job: waiting.job, seconds }, 'work stopped');
    leave(
      seat,
      new WorkRefused('too long', `takes more than ${seconds} seconds of computing; nothing was changed`),
    );
  }, LOOK_MS);
  const message: JobMessage = { id: pool().nextId++, job: waiting.job, input: waiting.input };
  seat.worker.postMessage(message);
}

function release(seat: Seat): void {
  clearInterval(seat.timer);
  seat.current = undefined;
  seat.worker.unref();
}

/** Takes a worker out of the pool for good; whoever waited for it is told why. */
function leave(seat: Seat, why: Error): void {
  if (!pool().seats.delete(seat)) return;
  const { current } = seat;
  release(seat);
  void seat.worker.terminate();
  current?.reject(why);
  next();
}

/** Ends all workers, when the process is about to end. */
export async function closePoolOfWork(): Promise<void> {
  const { seats } = pool();
  await Promise.all([...seats].map((seat) => seat.worker.terminate()));
}
