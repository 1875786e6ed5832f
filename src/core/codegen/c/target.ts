import type { Derived } from '../../derive';
import { prefixOf } from '../../plan/resolve';
import type { GeneratedFile, Target } from '../types';
import { printHeader } from './header';
import { printSource } from './source';

/** C11, one header and one source file, no other dependency than stdint and stdbool. */
export const cTarget: Target = {
  id: 'c',
  title: 'C11',
  language: 'c',
  comment: (text) => `/* ${text} */`,
  generate(derived: Derived): GeneratedFile[] {
    const prefix = prefixOf(derived.plan);
    return [
      { path: `${prefix}.h`, text: printHeader(derived, prefix) },
      { path: `${prefix}.c`, text: printSource(derived, prefix) },
    ];
  },
};
