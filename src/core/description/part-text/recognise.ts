/** Tells a part's text from other files, without the grammar. */

/** How files in this form end. */
export const PART_TEXT_ENDING = '.part';

/** Whether a file is in this form: by its name, or by its first word. */
export const isPartText = (name: string, text: string): boolean =>
  (name.endsWith(PART_TEXT_ENDING) && !/^\s*\{/.test(text)) ||
  /^\ufeff?(?:[ \t\r]*(?:#[^\n]*)?\n)*part\s+[\w'.-]+\s+"/.test(text);

/** The id of the part that a text describes, without reading all of it. */
export const idInPartText = (text: string): string | undefined =>
  /^part\s+(?:'([^'\n]+)'|([A-Za-z0-9][\w.-]*))/m.exec(text)?.slice(1).find(Boolean);
