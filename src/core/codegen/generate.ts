import type { Derived } from '../derive';
import { sha256Hex } from '../fingerprint';
import type { GeneratedFile, Target } from './types';

const SEAL = /Mavrek text ([0-9a-f]{32})/;

/** All files of a target, each closed with a line that holds the digest of the text before it. */
export function generateFiles(target: Target, derived: Derived): GeneratedFile[] {
  return target.generate(derived).map(({ path, text, operations }) => ({
    path,
    ...(operations ? { operations } : {}),
    text: `${text}${target.seal(`Mavrek text ${digest(text)}`)}`,
  }));
}

const digest = (text: string): string => sha256Hex(text).slice(0, 32);

/** Whether a file is as it was generated. Line ends do not count, since repositories change them. */
export function isUntouched(text: string): boolean {
  const plain = text.replaceAll('\r\n', '\n').replace(/\n+$/, '\n');
  const lastLine = plain.lastIndexOf('\n', plain.length - 2) + 1;
  const found = SEAL.exec(plain.slice(lastLine));
  return found !== null && found[1] === digest(plain.slice(0, lastLine));
}
