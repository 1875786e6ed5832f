/** Blanks that documents use beside the plain one: non-breaking, figure, thin, narrow and ideographic spaces. */
const BLANKS = /[\u00a0\u1680\u2000-\u200a\u202f\u205f\u3000]/g;
/** What has no width: joiners, direction marks, soft hyphens, byte order marks inside a text. */
const INVISIBLE = /[\u00ad\u200b-\u200f\u2060\ufeff]/g;
/** Hyphens that look like the one of the keyboard; the dashes stay, for they stand for "nothing". */
const HYPHENS = /[\u2010\u2011\u2212\ufe63\uff0d]/g;
/** Letters that typesetters join. */
const LIGATURES: Readonly<Record<string, string>> = { ﬀ: 'ff', ﬁ: 'fi', ﬂ: 'fl', ﬃ: 'ffi', ﬄ: 'ffl' };
/** All but tab and line end, which divide cells and lines. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is taken out
const CONTROLS = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/g;

/**
 * A text as documents hold it, in the characters that names are made of: a pad whose name has a non-breaking space or a soft
 * hyphen in it would look like another and be none.
 */
export const cleanText = (text: string): string =>
  // Most texts need nothing of this.
  /[^\n\r\t\u0020-\u007e]/.test(text)
    ? text
        .replace(BLANKS, ' ')
        .replace(INVISIBLE, '')
        .replace(HYPHENS, '-')
        .replace(CONTROLS, ' ')
        .replace(/[ﬀ-ﬄ]/g, (letter) => LIGATURES[letter] ?? letter)
    : text;
