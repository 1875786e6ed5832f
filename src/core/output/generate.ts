import { sha256Hex } from '../base/fingerprint';
import type { Derived } from '../derive/derive';
import type { GeneratedFile, Target } from './code/types';

/** Why there is no such code of a plan; undefined where there is. */
export const whyNoCode = (target: Target, derived: Derived): string | undefined => target.lacks?.(derived);

const SEAL = /Mavrek text ([0-9a-f]{32})/;

/** All files of a target, each closed with a line that holds the digest of the text before it. Printed when they are read. */
export const generateFiles = (target: Target, derived: Derived): GeneratedFile[] =>
  target.files(derived).map(({ path, initialises, seal = target.seal, print }): GeneratedFile => {
    let printed: Pick<GeneratedFile, 'text' | 'operations'> | undefined;
    const file = (): Pick<GeneratedFile, 'text' | 'operations'> => {
      if (!printed) {
        const { text, operations } = print();
        printed = {
          text: seal ? `${text}${seal(`Mavrek text ${digest(text)}`)}` : text,
          ...(operations ? { operations } : {}),
        };
      }
      return printed;
    };
    return {
      path,
      ...(initialises ? { initialises } : {}),
      get text() {
        return file().text;
      },
      get operations() {
        return file().operations;
      },
    };
  });

const digest = (text: string): string => sha256Hex(text).slice(0, 32);

/** Whether a file is as it was generated. Line ends do not count, since repositories change them. */
export function isUntouched(text: string): boolean {
  const plain = text.replaceAll('\r\n', '\n').replace(/\n+$/, '\n');
  const lastLine = plain.lastIndexOf('\n', plain.length - 2) + 1;
  const found = SEAL.exec(plain.slice(lastLine));
  return found !== null && found[1] === digest(plain.slice(0, lastLine));
}
