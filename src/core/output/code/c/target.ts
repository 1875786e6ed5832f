import type { Target } from '../types';
import { printHeader, printWholeHeader } from './header';
import { cNames } from './names';
import { printSource } from './source';
import { printTableSource } from './table';
import { c, comment } from './writer';

/** C11, one header and one source file, no other dependency than stdint and stdbool. */
export const cTarget: Target = {
  id: 'c',
  title: 'C11',
  language: 'c',
  seal: (text) => c`${comment(text)}\n`,
  files(derived) {
    const names = cNames(derived);
    if (derived.plan.code.layout === 'header')
      return [{ path: `${names.file}.h`, initialises: true, print: () => printWholeHeader(derived, names) }];
    return [
      { path: `${names.file}.h`, print: () => ({ text: printHeader(derived, names) }) },
      { path: `${names.file}.c`, initialises: true, print: () => printSource(derived, names) },
    ];
  },
};

/** The smallest C: the same header, and in the source a table and one loop. */
export const cTableTarget: Target = {
  ...cTarget,
  id: 'c-table',
  title: 'C11, table',
  files(derived) {
    const names = cNames(derived);
    return [
      {
        path: `${names.file}.h`,
        print: () => ({ text: printHeader(derived, names, { addresses: 'plain' }) }),
      },
      { path: `${names.file}.c`, initialises: true, print: () => printTableSource(derived, names) },
    ];
  },
};
