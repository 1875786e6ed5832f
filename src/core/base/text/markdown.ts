import { visible } from './visible';

const ENTITIES: Readonly<Record<string, string>> = { '<': '&lt;', '>': '&gt;', '&': '&amp;' };

/** Text on one line of Markdown, in a cell of a table, a heading or an item of a list, where its marks stand for themselves. */
export const markdownText = (text: string): string =>
  visible(text.replace(/\s+/g, ' '))
    .replace(/[\\`*_{}[\]<>#|~&]/g, (mark) => ENTITIES[mark] ?? `\\${mark}`)
    // At the beginning they would make a list.
    .replace(/^( ?)([-+])/, '$1\\$2')
    .replace(/^( ?\d+)([.)])/, '$1\\$2');
