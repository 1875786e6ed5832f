import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { runner } from 'node-pg-migrate';
import pg from 'pg';
import { directUrl } from './db';

const folder = (): string => join(process.env.MAVREK_HOME ?? process.cwd(), 'db');

/** Brings the database to the newest schema, and its rights with it. */
export async function migrate(): Promise<void> {
  await runner({
    databaseUrl: directUrl(),
    dir: join(folder(), 'migrations'),
    direction: 'up',
    migrationsTable: 'migrations',
    log: () => undefined,
  });
  await onDatabase(readFileSync(join(folder(), 'rights.sql'), 'utf8'));
  await onDatabase('select mavrek_partitions(now()::date, 4)');
}

/** The role that statements for people run as; a dump names it in its policies, so it must be there before one is restored. */
export const ensureRole = (): Promise<void> =>
  onDatabase(`do $$ begin
    if not exists (select from pg_roles where rolname = 'mavrek_people') then create role mavrek_people nologin; end if;
  end $$`);

async function onDatabase(sql: string): Promise<void> {
  const client = new pg.Client({ connectionString: directUrl() });
  await client.connect();
  try {
    // Two that start at once would both change the same entries of the catalogue.
    await client.query('begin; select pg_advisory_xact_lock(7316502)');
    await client.query(sql);
    await client.query('commit');
  } catch (error) {
    if ((error as { code?: string }).code === '42501')
      throw new Error(
        'the role mavrek_people is missing or not granted, and this user may not create it; as a superuser run: create role mavrek_people nologin; grant mavrek_people to the user in DATABASE_URL',
      );
    throw error;
  } finally {
    await client.end();
  }
}
