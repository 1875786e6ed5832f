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

async function consume(which: 'account' | 'address', key: string): Promise<Result<null>> {
  try {
    await limiters()[which].consume(key);
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

const accountKey = (account: string): string => account.toLowerCase().slice(0, 200);

/** Counts that somebody tries something from an address, before what they sent is looked at. */
export const countAddress = (address: string): Promise<Result<null>> => consume('address', address);

/** Counts a try on an account before it is looked at, so that many at once count as many. */
export const countAccount = (account: string): Promise<Result<null>> =>
  consume('account', accountKey(account));

/** Counts both. Fails when there were too many of either. */
export async function countAttempt(account: string, address: string): Promise<Result<null>> {
  const free = await countAddress(address);
  return free.ok ? countAccount(account) : free;
}

/** One that came through does not count. */
export async function forgiveAttempt(account: string, address: string): Promise<void> {
  await limiters().account.delete(accountKey(account));
  await limiters().address.reward(address);
}
