import { identifierFrom } from '../../../base/text/identifier';
import { type Code, makeWriter, plainText } from '../code';

export type DtsCode = Code<'devicetree'>;

const { trusted, ...writer } = makeWriter<'devicetree'>();

/** Devicetree source. Source of the rules: the Devicetree Specification 0.4, 2.2 (names) and 6 (source format). */
export const dts = writer.code;
export const { join, decimal } = writer;

const commentText = (text: string): string =>
  plainText(text)
    .replace(/\*(?=\/)|\/(?=[*/])/g, '$& ')
    .trimEnd();

export const blockComment = (lines: readonly string[]): DtsCode[] => [
  dts`/*`,
  ...lines.map((line) => trusted(` * ${commentText(line)}`.trimEnd())),
  dts` */`,
];

export const comment = (text: string): DtsCode => trusted(`/* ${commentText(text).trim()} */`);

/** A string; what is not printable ASCII is written in hexadecimal, byte by byte. Nothing may be empty bytes inside. */
export function stringLiteral(text: string): DtsCode {
  let literal = '';
  for (const byte of new TextEncoder().encode(text.replaceAll('\0', ' '))) {
    const plain = byte >= 0x20 && byte <= 0x7e && byte !== 0x22 && byte !== 0x5c;
    literal += plain ? String.fromCharCode(byte) : `\\${byte.toString(8).padStart(3, '0')}`;
  }
  return trusted(`"${literal}"`);
}

export const label = (...texts: readonly string[]): DtsCode =>
  trusted(texts.map((text) => identifierFrom(text).toLowerCase()).join('_') || 'x');

/** Names of nodes have 31 characters at most. */
export const nodeName = (text: string): DtsCode =>
  trusted(identifierFrom(text, 31).toLowerCase().replaceAll('_', '-') || 'x');
