import { hash, verify } from '@node-rs/argon2';
import { LONGEST_PASSWORD } from '@/core/people/password';

/** argon2id with 19 MiB and two passes, in a thread of its own: what OWASP recommends as the least. */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const hashPassword = (password: string): Promise<string> => hash(password.normalize('NFKC'), COST);

let nobodys: Promise<string> | undefined;

/** Whether it is the password. Where there is none it takes as long as where there is: how long it takes tells nothing. */
export async function isPassword(password: string, hashed: string | null): Promise<boolean> {
  nobodys ??= hashPassword('of nobody');
  const given = password.slice(0, LONGEST_PASSWORD).normalize('NFKC');
  const same = await verify(hashed ?? (await nobodys), given);
  return hashed !== null && same;
}
