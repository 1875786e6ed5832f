/** File systems allow 255 bytes; downloads get a number and an ending behind them. */
const LONGEST_STEM = 80;

/**
 * A file name out of any texts: letters, digits and hyphens of ASCII, one byte each, cut to a length that every file system
 * takes; never a path, never hidden, never empty. `ending` is ours and begins with a dot.
 */
export function fileName(texts: readonly string[], ending: string, otherwise: string): string {
  const stem = texts
    .join(' ')
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^A-Za-z0-9]+/g, '-')
    .toLowerCase()
    .replace(/^-/, '')
    .slice(0, LONGEST_STEM)
    .replace(/-$/, '');
  return `${safeStem(stem || otherwise)}${ending}`;
}

/** Some systems keep these names for devices, whatever ending they have. */
const safeStem = (stem: string): string =>
  /^(con|prn|aux|nul|com\d|lpt\d)$/.test(stem) ? `${stem}-file` : stem;

/** The header with which a file is handed over. */
export const attachment = (name: string): string =>
  `attachment; filename="${name.replace(/[^A-Za-z0-9._-]/g, '-')}"`;
