import { hash, verify } from '@node-rs/argon2';
import { fail, ok, type Result } from '@/core/base/result';

/** argon2id with 19 MiB and two passes, in a thread of its own: what OWASP recommends as the least. */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const SHORTEST_PASSWORD = 12;
const LONGEST_PASSWORD = 200;

export const hashPassword = (password: string): Promise<string> => hash(password.normalize('NFKC'), COST);

let nobodys: Promise<string> | undefined;

/** Whether it is the password. Where there is none it takes as long as where there is: how long it takes tells nothing. */
export async function isPassword(password: string, hashed: string | null): Promise<boolean> {
  nobodys ??= hashPassword('of nobody');
  const given = password.slice(0, LONGEST_PASSWORD).normalize('NFKC');
  const same = await verify(hashed ?? (await nobodys), given);
  return hashed !== null && same;
}

/** What speaks against a password: too short, or what anybody would try first. */
export function checkPassword(
  password: string,
  { name, email }: { name: string; email: string },
): Result<string> {
  const bad = (message: string) => fail({ place: 'password', message });
  if ([...password].length < SHORTEST_PASSWORD)
    return bad(`must have at least ${SHORTEST_PASSWORD} characters`);
  if (password.length > LONGEST_PASSWORD) return bad(`must have at most ${LONGEST_PASSWORD} characters`);
  const plain = password.toLowerCase();
  if (new Set(plain).size < 5) return bad('repeats a few characters; take others');
  for (const one of [name, email, email.split('@')[0] ?? '', 'mavrek', 'password'])
    if (one.length >= 4 && plain.replaceAll(one.toLowerCase(), '').length < 6)
      return bad('is little more than a name; take another');
  return ok(password);
}
