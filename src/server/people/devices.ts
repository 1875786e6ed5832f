import { query } from '../db';
import { digestOf, newSecret } from './secrets';
import { asServer } from './who';

/**
 * Browsers in which somebody has signed in. Wrong guesses are counted for each by itself: whoever guesses from anywhere else uses up
 * the tries of strangers, and not those of the owner at their own machine. A secret in a cookie tells it; it lets nobody in.
 */
const MOST_DEVICES = 20;
const KEPT_DAYS = 366;

export const DEVICE_SECONDS = KEPT_DAYS * 86_400;

/** What counts tries of an account from this browser; undefined when the account's owner has never signed in here. */
export async function knownDevice(email: string, secret: string | undefined): Promise<string | undefined> {
  if (secret === undefined) return undefined;
  const digest = digestOf(secret);
  const rows = await asServer(() =>
    query(
      `select 1 from known_devices d join people p on p.id = d.person_id and p.deleted_at is null
       where d.digest = $1 and lower(p.email) = lower($2) and d.seen_at > now() - interval '${KEPT_DAYS} days'`,
      [digest, email],
    ),
  );
  return rows.length > 0 ? `device ${digest}` : undefined;
}

/** Remembers the browser in which somebody signed in just now; the answer is the secret for its cookie. */
export async function rememberDevice(personId: string, secret: string | undefined): Promise<string> {
  const here = secret ?? newSecret();
  await asServer(async () => {
    // Of several people at one machine it is the machine of whoever signed in last.
    await query(
      `insert into known_devices (digest, person_id) values ($1, $2)
       on conflict (digest) do update set seen_at = now(), person_id = $2`,
      [digestOf(here), personId],
    );
    await query(
      `delete from known_devices where person_id = $1 and digest not in
         (select digest from known_devices where person_id = $1 order by seen_at desc limit ${MOST_DEVICES})`,
      [personId],
    );
  });
  return here;
}
