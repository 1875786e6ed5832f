import type { Me } from '@/core/people/rights';

/** Who is signed in, as the page was made for them; undefined without accounts, and on the server. For what draws nothing. */
export function meNow(): Me | undefined {
  const text = typeof document === 'undefined' ? undefined : document.body.dataset.me;
  return text === undefined ? undefined : (JSON.parse(text) as Me);
}

/** Says in which workspace a page is, so that a request of one is not answered from another that was entered meanwhile. */
export function workspaceHeader(): Record<string, string> {
  const me = meNow();
  return me ? { 'x-mavrek-workspace': me.workspace.id } : {};
}
