/**
 * What was looked up of sessions, tokens and plans' workspaces, for a moment: an edit every tenth of a second needs it as often.
 * Whatever changes somebody's access here empties it at once; what another server changed is known after the moment.
 */
export const MOMENT_MS = 800;
const MOST = 5000;

interface Kept {
  value: unknown;
  until: number;
}

const shared = globalThis as typeof globalThis & { mavrekAccess?: { kept: Map<string, Kept>; age: number } };

const cache = () => {
  shared.mavrekAccess ??= { kept: new Map(), age: 0 };
  return shared.mavrekAccess;
};

/** Looked up again when the moment is over; what is not there is never remembered. */
export async function remembered<T>(key: string, look: () => Promise<T | undefined>): Promise<T | undefined> {
  const here = cache();
  const found = here.kept.get(key);
  if (found && found.until > Date.now()) return found.value as T;
  const { age } = here;
  const value = await look();
  // What was emptied while it was being looked up stays empty.
  if (value !== undefined && here.age === age) {
    if (here.kept.size >= MOST) here.kept.clear();
    here.kept.set(key, { value, until: Date.now() + MOMENT_MS });
  }
  return value;
}

export function forgetAccess(): void {
  const here = cache();
  here.age++;
  here.kept.clear();
}
