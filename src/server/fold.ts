import { database } from './db';
import { log } from './log';
import { asServer } from './people/who';

/**
 * Keeping the log: partitions for the months to come, and old edits folded, many into one row. What is folded is still read as
 * history; opening a plan does not meet it. Run now and then by every server; the database sees to it that one does it at a time.
 */
const TOGETHER = 500;
const PAUSE_MS = 60 * 60 * 1000;

const foldDays = (): number => {
  const days = Number(process.env.MAVREK_FOLD_DAYS || 90);
  return Number.isFinite(days) && days >= 0 ? days : 90;
};

/** Partitions of this month and the three that follow. */
export async function makePartitions(): Promise<void> {
  await asServer(() => database.query('select mavrek_partitions(now()::date, 4)'));
}

/** Folds edits that are older than so many days, of at most so many plans. Answers how many edits were folded. */
export async function foldOld(days = foldDays(), mostPlans = 200): Promise<number> {
  return asServer(async () => {
    const before = new Date(Date.now() - days * 86_400_000);
    const { rows } = await database.query<{ id: string }>(
      `select p.id from plans p left join lateral
         (select max(f.last) as last from folded_edits f where f.plan_id = p.id) folded on true
       where p.seq >= coalesce(folded.last, 0) + $1 and exists (
         select 1 from edits e where e.workspace_id = p.workspace_id and e.plan_id = p.id
           and e.seq = coalesce(folded.last, 0) + $1 and e.at < $2)
       limit $3`,
      [TOGETHER, before, mostPlans],
    );
    let folded = 0;
    for (const { id } of rows) {
      const { rows: done } = await database.query<{ folded: number }>(
        'select mavrek_fold($1, $2, $3) as folded',
        [id, TOGETHER, before],
      );
      folded += done[0]?.folded ?? 0;
    }
    return folded;
  });
}

/** Sees to the log from now on, every hour; a failure is told and tried again. */
export function keepLog(): void {
  const run = async (): Promise<void> => {
    await makePartitions();
    while ((await foldOld()) > 0) {
      // As long as there is something old.
    }
  };
  const again = (): void => {
    run().catch((error: Error) => log.warn({ err: error.message }, 'the log was not kept'));
  };
  setTimeout(again, 60_000).unref();
  setInterval(again, PAUSE_MS).unref();
}
