import pg from 'pg';
import { log } from './log';
import { type Who, whoNow } from './people/who';

// bigint columns are sequence numbers; they stay far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export const databaseUrl = (): string => {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set; start Mavrek with ./mavrek start');
  return url;
};

/** For what needs a connection of its own, past a pooler: listening, migrations. */
export const directUrl = (): string => process.env.DATABASE_DIRECT_URL || databaseUrl();

// Next may evaluate this module more than once; the process has one pool.
const shared = globalThis as typeof globalThis & { mavrekPool?: pg.Pool };

/**
 * Behind a pooler that hands out connections by the transaction, statements have no names: the next may run on a connection that has
 * never heard of it.
 */
class PooledClient extends pg.Client {
  override query(...args: unknown[]): never {
    const [first, ...rest] = args;
    const nameless =
      typeof first === 'object' && first !== null && 'name' in first ? { ...first, name: undefined } : first;
    return (super.query as (...all: unknown[]) => never)(nameless, ...rest);
  }
}

function pool(): pg.Pool {
  if (!shared.mavrekPool) {
    shared.mavrekPool = new pg.Pool({
      connectionString: databaseUrl(),
      max: 10,
      connectionTimeoutMillis: 5000,
      // A database that was lost without a word must not hold people up for longer.
      query_timeout: 20_000,
      keepAlive: true,
      ...(process.env.DATABASE_POOLER === 'transaction' ? { Client: PooledClient } : {}),
    });
    // Without a listener, an idle connection that breaks would end the process.
    shared.mavrekPool.on('error', (error) =>
      log.warn({ err: error.message }, 'idle database connection lost'),
    );
  }
  return shared.mavrekPool;
}

export type Queryable = Pick<pg.ClientBase, 'query'>;

/** The statement behind which a transaction has the rights of people only; see `db/rights.sql`. */
function rightsOf({ principals }: Who): string {
  const wrong = principals.find((one) => !/^[pt]:[a-z0-9]{1,40}$/.test(one));
  if (wrong !== undefined) throw new Error('a principal is none');
  return `set local role mavrek_people; set local mavrek.who = '${principals.join(',')}'`;
}

/** Whether statements are made for people, who have rights, and not for the server, which has all. */
const forPeople = (who: Who): boolean => who.kind === 'person' || who.kind === 'nobody';

/** To query, for functions that also work inside a transaction: with the rights of whoever it is done for. */
export const database: Queryable = {
  query: (async (...args: unknown[]) => {
    const run = (client: object): unknown =>
      (client as { query: (...all: unknown[]) => unknown }).query(...args);
    return forPeople(whoNow()) ? transaction(async (client) => run(client)) : run(pool());
  }) as Queryable['query'],
};

export async function query<Row extends pg.QueryResultRow>(
  text: string,
  values: unknown[] = [],
): Promise<Row[]> {
  return (await database.query<Row>(text, values)).rows;
}

/** Runs `work` in one transaction: committed when it returns, rolled back when it throws. */
export async function transaction<T>(work: (client: Queryable) => Promise<T>): Promise<T> {
  const who = whoNow();
  const client = await pool().connect();
  let broken: Error | undefined;
  // A connection that breaks while nobody waits for an answer says so in an event, which must not end the process.
  const lost = (error: Error): void => {
    broken = error;
  };
  client.on('error', lost);
  try {
    await client.query(forPeople(who) ? `begin; ${rightsOf(who)}` : 'begin');
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

/** Whether an error says that the connection to the database was lost, or that it is on its way up or down. */
export function isLost({ code = '', message }: Error & { code?: string }): boolean {
  return (
    /^(ECONN|EPIPE|ETIMEDOUT|08|57P0)/.test(code) ||
    /^(Connection terminated|timeout expired|Query read timeout|timeout exceeded)/.test(message)
  );
}
