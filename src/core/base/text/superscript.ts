const DIGITS = '⁰¹²³⁴⁵⁶⁷⁸⁹';

/** Whether a character is a raised digit. */
export const isRaisedDigit = (char: string): boolean => char !== '' && DIGITS.includes(char);

/** `12` → `¹²`; characters that are no digits stay. */
export const raiseDigits = (text: string): string =>
  [...text].map((char) => (/\d/.test(char) ? (DIGITS[Number(char)] ?? char) : char)).join('');

/** `¹²` → `12`; other characters stay. */
export const lowerDigits = (text: string): string =>
  [...text].map((char) => (isRaisedDigit(char) ? String(DIGITS.indexOf(char)) : char)).join('');
