import { escapeXml } from '../../base/text/escape-xml';

/** An element with a text. */
export const tag = (name: string, text: string): string => `<${name}>${escapeXml(text)}</${name}>`;

/** What the file does not say, as a comment at its head; two hyphens would end it. */
export const xmlComment = (lines: readonly string[] | undefined): string[] =>
  lines === undefined
    ? []
    : [
        '<!-- Not said here, only in descriptions:',
        ...lines.map((line) => `  ${line.replace(/-(?=-)/g, '- ').replace(/-$/, '- ')}`),
        '-->',
      ];
