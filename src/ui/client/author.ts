const KEY = 'mavrek:author';

/** What whoever sits here calls themselves, in waivers, edits and revisions; empty until they say. */
export function authorName(): string {
  try {
    return localStorage.getItem(KEY) ?? '';
  } catch {
    return '';
  }
}

export function keepAuthorName(name: string): void {
  try {
    localStorage.setItem(KEY, name.trim().slice(0, 120));
  } catch {
    // Private windows may have no storage: it has to be said again next time.
  }
}
