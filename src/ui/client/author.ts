import { meNow } from './me';

const KEY = 'mavrek:author';

/** Who sits here, in waivers, edits and revisions: who is signed in, else what they call themselves; empty until they say. */
export function authorName(): string {
  const me = meNow();
  if (me) return me.name;
  try {
    return localStorage.getItem(KEY) ?? '';
  } catch {
    return '';
  }
}

export function keepAuthorName(name: string): void {
  if (meNow()) return;
  try {
    localStorage.setItem(KEY, name.trim().slice(0, 120));
  } catch {
    // Private windows may have no storage: it has to be said again next time.
  }
}
