import { join } from 'node:path';
import { runner } from 'node-pg-migrate';
import { databaseUrl } from './db';

/** Brings the database to the newest schema. */
export async function migrate(): Promise<void> {
  await runner({
    databaseUrl: databaseUrl(),
    dir: join(process.env.MAVREK_HOME ?? process.cwd(), 'db/migrations'),
    direction: 'up',
    migrationsTable: 'migrations',
    log: () => undefined,
  });
}
