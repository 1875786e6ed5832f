import { fail, ok, type Result } from '../base/result';

const SHORTEST_PASSWORD = 12;
export const LONGEST_PASSWORD = 200;

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
  if (/^[\d\s.,:/-]*$/.test(plain)) return bad('is only digits; take words, too');
  if (new Set(plain).size < 5) return bad('repeats a few characters; take others');
  for (const one of [name, email, email.split('@')[0] ?? '', 'mavrek', 'password'])
    if (one.length >= 4 && plain.replaceAll(one.toLowerCase(), '').length < 8)
      return bad('is little more than a name; take another');
  return ok(password);
}
