import { identifierFrom } from '../../../base/text/identifier';
import { type Code, commentableText, makeWriter, octalLiteral } from '../code';

export type DtsCode = Code<'devicetree'>;

const { trusted, ...writer } = makeWriter<'devicetree'>();

/** Devicetree source. Source of the rules: the Devicetree Specification 0.4, 2.2 (names) and 6 (source format). */
export const dts = writer.code;
export const { join, decimal } = writer;

export const blockComment = (lines: readonly string[]): DtsCode[] => [
  dts`/*`,
  ...lines.map((line) => trusted(` * ${commentableText(line)}`.trimEnd())),
  dts` */`,
];

export const comment = (text: string): DtsCode => trusted(`/* ${commentableText(text).trim()} */`);

/** A string; what is not printable ASCII is written in hexadecimal, byte by byte. Nothing may be empty bytes inside. */
export const stringLiteral = (text: string): DtsCode =>
  trusted(octalLiteral(text.replaceAll('\0', ' '), '"\\'));

export const label = (...texts: readonly string[]): DtsCode =>
  trusted(texts.map((text) => identifierFrom(text).toLowerCase()).join('_') || 'x');

/** Names of nodes have 31 characters at most. */
export const nodeName = (text: string): DtsCode =>
  trusted(identifierFrom(text, 31).toLowerCase().replaceAll('_', '-') || 'x');
