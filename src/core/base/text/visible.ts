/** Control characters that are no breaks or tabs, marks that turn the direction of text, what has no width, and rare breaks. */
const UNSEEN = /(?![\t\n])[\p{Cc}\p{Bidi_Control}\u200b\u2028\u2029\u2060\ufeff]/gu;

/**
 * Text in which nothing hides: what a terminal would obey and what would show other words than there are is written as `\u202e`, which
 * within JSON is the same character still.
 */
export const visible = (text: string): string =>
  text.replace(UNSEEN, (one) => `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}`);
