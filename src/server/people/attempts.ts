import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { fail, ok, type Result } from '@/core/base/result';
import { database } from '../db';
import { asServer } from './who';

/** Limits on trying passwords and invitations, in the database: they hold for all servers together. */
const store = {
  query: (...args: unknown[]) => asServer(() => (database.query as (...all: unknown[]) => unknown)(...args)),
};

const limiter = (keyPrefix: string, points: number, minutes: number) =>
  new RateLimiterPostgres({
    storeClient: store,
    storeType: 'client',
    tableName: 'attempts',
    tableCreated: true,
    clearExpiredByTimeout: false,
    keyPrefix,
    points,
    duration: minutes * 60,
  });

let made: { account: RateLimiterPostgres; address: RateLimiterPostgres } | undefined;
/** Ten failures an account and a hundred an address in a quarter of an hour. */
const limiters = () => {
  made ??= { account: limiter('account', 10, 15), address: limiter('address', 100, 15) };
  return made;
};

/** Counts an attempt before it is looked at, so that many at once count as many. Fails when there were too many. */
export async function countAttempt(account: string, address: string): Promise<Result<null>> {
  try {
    await limiters().address.consume(address);
    await limiters().account.consume(account.toLowerCase().slice(0, 200));
    return ok(null);
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    const minutes = Math.max(1, Math.ceil(error.msBeforeNext / 60_000));
    return fail({
      place: 'sign-in',
      message: `was tried too often; try again in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}`,
    });
  }
}

/** One that came through does not count. */
export async function forgiveAttempt(account: string, address: string): Promise<void> {
  await limiters().account.delete(account.toLowerCase().slice(0, 200));
  await limiters().address.reward(address);
}
