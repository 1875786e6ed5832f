import { cpSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';

/** As a server that has just started sees it. */
async function seen(home: string, url = process.env.DATABASE_URL): Promise<string | undefined> {
  const { MAVREK_HOME, DATABASE_URL } = process.env;
  Object.assign(process.env, { MAVREK_HOME: home, DATABASE_URL: url });
  jest.resetModules();
  const [{ whyNotReady }, { closePool }] = await Promise.all([import('./ready'), import('./db')]);
  try {
    return await whyNotReady();
  } finally {
    await closePool();
    Object.assign(process.env, { DATABASE_URL });
    if (MAVREK_HOME === undefined) delete process.env.MAVREK_HOME;
    else process.env.MAVREK_HOME = MAVREK_HOME;
  }
}

test('a server is ready when the database has the schema that it was built for, or a later one', async () => {
  const later = mkdtempSync(join(tmpdir(), 'mavrek-ready-'));
  cpSync('db', join(later, 'db'), { recursive: true });
  expect(await seen(later)).toBeUndefined();
  // An older server, while the next version is being rolled out.
  rmSync(join(later, 'db/migrations/013_log.sql'));
  expect(await seen(later)).toBeUndefined();
  writeFileSync(join(later, 'db/migrations/900_more.sql'), 'select 1;');
  expect(await seen(later)).toBe('the database has not been brought to this version yet');
  rmSync(later, { recursive: true });
});

test('not on a database that nobody has prepared', async () => {
  const name = `mavrek_ready_${process.pid}`;
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await client.connect();
  await client.query(`create database ${name}`);
  try {
    const url = new URL(process.env.DATABASE_URL ?? '');
    url.pathname = `/${name}`;
    expect(await seen(process.cwd(), url.href)).toBe('the database has not been brought to this version yet');
  } finally {
    await client.query(`drop database ${name} with (force)`);
    await client.end();
  }
});
