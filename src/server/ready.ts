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
