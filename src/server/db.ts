import pg from 'pg';
import { log } from './log';

// bigint columns are sequence numbers; they stay far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export const databaseUrl = (): string => {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set; start Mavrek with ./mavrek start');
  return url;
};

// Next may evaluate this module more than once; the process has one pool.
const shared = globalThis as typeof globalThis & { mavrekPool?: pg.Pool };

function pool(): pg.Pool {
  if (!shared.mavrekPool) {
    shared.mavrekPool = new pg.Pool({
      connectionString: databaseUrl(),
      max: 10,
      connectionTimeoutMillis: 5000,
    });
    // Without a listener, an idle connection that breaks would end the process.
    shared.mavrekPool.on('error', (error) =>
      log.warn({ err: error.message }, 'idle database connection lost'),
    );
  }
  return shared.mavrekPool;
}

export type Queryable = Pick<pg.ClientBase, 'query'>;

/** The pool as something to query, for functions that also work inside a transaction. */
export const database: Queryable = {
  query: ((...args: unknown[]) =>
    (pool().query as (...all: unknown[]) => unknown)(...args)) as Queryable['query'],
};

export async function query<Row extends pg.QueryResultRow>(
  text: string,
  values: unknown[] = [],
): Promise<Row[]> {
  return (await pool().query<Row>(text, values)).rows;
}

/** Runs `work` in one transaction: committed when it returns, rolled back when it throws. */
export async function transaction<T>(work: (client: Queryable) => Promise<T>): Promise<T> {
  const client = await pool().connect();
  let broken: Error | undefined;
  // A connection that breaks while nobody waits for an answer says so in an event, which must not end the process.
  const lost = (error: Error): void => {
    broken = error;
  };
  client.on('error', lost);
  try {
    await client.query('begin');
    const result = await work(client);
    await client.query('commit');
    return result;
  } catch (error) {
    await client.query('rollback').catch((failure: Error) => {
      broken = failure;
    });
    throw error;
  } finally {
    client.off('error', lost);
    client.release(broken);
  }
}

export async function closePool(): Promise<void> {
  await shared.mavrekPool?.end();
  shared.mavrekPool = undefined;
}
