/** A page of this server, whatever was asked for: an address that leads elsewhere leads to the start. */
export function ownPage(next: string | null): string {
  if (next === null || !next.startsWith('/') || next.length > 2000) return '/';
  // Browsers read a backslash as a slash, and skip tabs and line feeds.
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is refused
  if (/^\/[/\\]|[\u0000-\u001f\\]/.test(next)) return '/';
  const url = URL.canParse(next, 'http://own.invalid') ? new URL(next, 'http://own.invalid') : undefined;
  return url?.host === 'own.invalid' && !url.pathname.startsWith('/api/')
    ? `${url.pathname}${url.search}`
    : '/';
}
