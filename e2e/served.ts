import { spawn } from 'node:child_process';
import pg from 'pg';
import { freePort } from '../src/testing/free-port';

/** The built application on a copy of the prepared database (DATABASE_URL), until it is stopped. */
export async function serveCopy(name: string): Promise<{ url: string; stop(): Promise<void> }> {
  const prepared = new URL(process.env.DATABASE_URL ?? '');
  const copy = new URL(prepared);
  copy.pathname = `${prepared.pathname}_${name}`;
  const sql = async (...statements: string[]): Promise<void> => {
    const admin = new URL(prepared);
    admin.pathname = '/postgres';
    const client = new pg.Client({ connectionString: admin.href });
    await client.connect();
    for (const statement of statements) await client.query(statement);
    await client.end();
  };
  const named = (url: URL): string => url.pathname.slice(1);
  await sql(
    `drop database if exists ${named(copy)} with (force)`,
    // Two workers may begin at once; a template is copied by one at a time.
    'select pg_advisory_lock(4699)',
    `create database ${named(copy)} template ${named(prepared)}`,
  );
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const server = spawn('node', [`${process.env.MAVREK_BUILD ?? '.next'}/server.cjs`], {
    env: {
      ...process.env,
      NEXT_TELEMETRY_DISABLED: '1',
      LOG_LEVEL: 'error',
      HOST: '127.0.0.1',
      PORT: String(port),
      DATABASE_URL: copy.href,
    },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  let over = false;
  const ended = new Promise<void>((done) =>
    server.on('exit', () => {
      over = true;
      done();
    }),
  );
  for (let up = false; !up; ) {
    if (over) throw new Error('the server ended before it answered');
    await new Promise((done) => setTimeout(done, 100));
    up = await fetch(`${url}/api/health`).then(
      ({ ok }) => ok,
      () => false,
    );
  }
  return {
    url,
    async stop() {
      server.kill('SIGTERM');
      await ended;
      await sql(`drop database if exists ${named(copy)} with (force)`);
    },
  };
}
