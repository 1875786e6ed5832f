import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { query } from './db';
import { asServer } from './people/who';

let newest: string | undefined;

/** The last step of the schema that this build knows of. */
const newestStep = (): string => {
  newest ??= readdirSync(join(process.env.MAVREK_HOME ?? process.cwd(), 'db/migrations'))
    .sort()
    .at(-1)
    ?.replace(/\.sql$/, '');
  return newest ?? '';
};

let wasReady = false;

/** Whether the database answers and has the schema of this build, or a later one; says why it is not so. */
export const whyNotReady = (): Promise<string | undefined> =>
  asServer(async () => {
    if (wasReady) await query('select 1');
    else wasReady = await hasSchema();
    return wasReady ? undefined : 'the database has not been brought to this version yet';
  });

async function hasSchema(): Promise<boolean> {
  const [table] = await query<{ there: boolean }>("select to_regclass('migrations') is not null as there");
  if (!table?.there) return false;
  const [step] = await query('select from migrations where name = $1', [newestStep()]);
  return step !== undefined;
}

/** Whether another node has on its disk what is acknowledged here; undefined where none is expected (`MAVREK_STANDBY`). */
export type Standby = 'synchronous' | 'missing';

/** What keeps this server from doing its work, and what it does it without. */
export interface Readiness {
  why?: string;
  standby?: Standby;
}

/** The database's schema; that its node leads and takes edits; and, where one is expected, its standby. */
export const readiness = (): Promise<Readiness> =>
  asServer(async (): Promise<Readiness> => {
    const why = await whyNotReady();
    if (why !== undefined) return { why };
    const [node] = await query<{ follows: boolean; standby: boolean }>(
      `select pg_is_in_recovery() or current_setting('transaction_read_only') = 'on' as follows,
         exists (select 1 from pg_stat_replication where sync_state in ('sync', 'quorum') and state = 'streaming') as standby`,
    );
    if (node?.follows)
      return { why: 'the node of the database that is asked does not lead; nothing can be stored there' };
    if (process.env.MAVREK_STANDBY !== 'on') return {};
    return { standby: node?.standby ? 'synchronous' : 'missing' };
  });
