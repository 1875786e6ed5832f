/** A page of this server, whatever was asked for: an address that leads elsewhere leads to the start. */
export function ownPage(next: string | null): string {
  if (next === null || !next.startsWith('/') || next.length > 2000) return '/';
  // Browsers read a backslash as a slash, and skip tabs and line feeds.
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is refused
  if (/^\/[/\\]|[\u0000-\u001f\\]/.test(next)) return '/';
  const url = URL.canParse(next, 'http://own.invalid') ? new URL(next, 'http://own.invalid') : undefined;
  if (url?.host !== 'own.invalid') return '/';
  // A way that goes up and down may end in one that leads away: `/a/..//elsewhere`.
  return /^\/(\/|api\/)/.test(url.pathname) ? '/' : `${url.pathname}${url.search}`;
}
