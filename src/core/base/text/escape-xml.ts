// biome-ignore lint/suspicious/noControlCharactersInRegex: characters that XML cannot hold at all
const UNPRINTABLE = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;
const HALF = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** Text as XML content or attribute; what XML cannot hold is dropped. */
export const escapeXml = (text: string): string =>
  text
    .replace(UNPRINTABLE, '')
    .replace(HALF, '')
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .replace(/"/g, '&quot;');
