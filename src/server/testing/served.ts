import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { get } from 'node:http';
import { type AddressInfo, createServer } from 'node:net';
import { newId } from '@/core/base/text/new-id';
import { query } from '@/server/db';
import { digestOf, newSecret } from '@/server/people/secrets';
import { asServer } from '@/server/people/who';

/** A port that nobody uses on the loopback. */
const freePort = (): Promise<number> =>
  new Promise((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => done(port));
    });
  });

/** The built application, served on a port of its own for the tests of a file. */
export interface Served {
  url(path: string): string;
  /** Processor time that it took so far, all threads, in milliseconds: how busy the machine is does not show in it. */
  processorTime(): number;
  stop(): Promise<void>;
}

/** Ticks of the kernel's clock in a second, as /proc counts them; fixed for user space on Linux. */
const TICKS = 100;

export async function serveBuilt(
  env: Record<string, string>,
  nodeArguments: readonly string[] = [],
): Promise<Served> {
  const port = await freePort();
  const server = spawn('node', [...nodeArguments, `${process.env.MAVREK_BUILD}/server.cjs`], {
    env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), LOG_LEVEL: 'fatal', ...env },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  let over = false;
  const ended = new Promise<void>((done) =>
    server.on('exit', () => {
      over = true;
      done();
    }),
  );
  const url = (path: string): string => `http://127.0.0.1:${port}${path}`;
  // As long as it lives it may come up; the test's own end is the limit.
  for (let up = false; !up; ) {
    if (over) throw new Error('the server ended before it answered');
    await new Promise((done) => setTimeout(done, 100));
    up = await isReady(url('/api/health'));
  }
  return {
    url,
    processorTime: () => {
      // The second field is the name in brackets, which may hold blanks: user and system time are the 12th and 13th after it.
      const after = readFileSync(`/proc/${server.pid}/stat`, 'utf8').split(') ').at(-1)?.split(' ') ?? [];
      return ((Number(after[11]) + Number(after[12])) * 1000) / TICKS;
    },
    stop: async () => {
      server.kill('SIGTERM');
      await ended;
    },
  };
}

const isReady = (address: string): Promise<boolean> =>
  new Promise((done) => {
    get(address, (answer) => {
      answer.resume();
      done(answer.statusCode === 200);
    }).on('error', () => done(false));
  });

/** The cookie of a new session of somebody. */
export async function sessionFor(
  personId: string,
  workspace: string,
): Promise<{ cookie: string; id: string }> {
  const [session, id] = [newSecret(), newId()];
  await asServer(() =>
    query(
      `insert into sessions (digest, id, person_id, workspace_id, agent, expires_at)
       values ($1, $2, $3, $4, 'test', now() + interval '1 day')`,
      [digestOf(session), id, personId, workspace],
    ),
  );
  return { cookie: `mavrek-session=${session}`, id };
}
