import { prefixOf } from '../../derive/resolve/resolve';
import { scheduleCsv, scheduleMarkdown } from '../board/schedule';
import { makeWriter } from '../code/code';
import type { Target } from '../code/types';
import { printSvd } from '../svd/print-svd';

/** Texts of the printers of documents, which escape what they print themselves. */
const { trusted } = makeWriter<'document'>();

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
  files: (derived) => [
    { path: `${prefixOf(derived.plan)}${ending}`, print: () => ({ text: trusted(print(derived)) }) },
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
