import { prefixOf } from '../../derive/resolve/resolve';
import { scheduleCsv, scheduleMarkdown } from '../board/schedule';
import type { Target } from '../code/types';
import { printSvd } from '../registers/print-svd';
import { documentText } from './writer';

/** Documents beside the code: they hold no initialisation, and are for parts without a recipe too. */
const document = (
  id: string,
  title: string,
  ending: string,
  language: string,
  print: (derived: Parameters<Target['files']>[0]) => string,
): Target => ({
  id,
  title,
  language,
  document: true,
  files: (derived) => [
    { path: `${prefixOf(derived.plan)}${ending}`, print: () => ({ text: documentText(print(derived)) }) },
  ],
});

export const markdownTarget = document(
  'schedule-md',
  'Pin schedule, Markdown',
  '_pins.md',
  'markdown',
  scheduleMarkdown,
);
export const csvTarget = document('schedule-csv', 'Pin schedule, CSV', '_pins.csv', 'plaintext', scheduleCsv);
export const svdTarget = document('svd', 'Registers, CMSIS-SVD', '.svd', 'xml', ({ device }) =>
  printSvd(device),
);
