import { ATTACHMENT_KINDS, attachmentMeta } from '../plan/model/attachments';
import { BENCH_FINDINGS, FINDING_KINDS } from './engine/finding-kinds';
import { FAULT_TITLES } from './faults/faults';
import { FORMS } from './script/forms';

const cell = (text: string): string => text.replaceAll('|', '\\|');

/** The tables of `docs/bench.md`, printed from the code that they are about, by the words that mark their places. */
export const BENCH_TABLES: Record<string, () => string> = {
  steps: () =>
    [
      '| step | what it does |',
      '|---|---|',
      ...FORMS.map(({ example, says }) => `| \`${cell(example)}\` | ${cell(says)} |`),
    ].join('\n'),
  attachments: () =>
    [
      '| kind | what | nets | figures | can be |',
      '|---|---|---|---|---|',
      ...ATTACHMENT_KINDS.map((kind) => {
        const { title, poles, least = poles.length, figures, verbs } = attachmentMeta(kind);
        const many = least === poles.length ? String(poles.length) : `${least} to ${poles.length}`;
        const listed = Object.entries(figures)
          .map(([key, { usual, unit }]) => `\`${key}\` ${usual}${unit ? ` ${unit}` : ''}`)
          .join(', ');
        return `| \`${kind}\` | ${title} | ${many} | ${listed || '–'} | ${verbs.join(', ') || '–'} |`;
      }),
    ].join('\n'),
  findings: () =>
    [
      '| finding | means |',
      '|---|---|',
      ...FINDING_KINDS.map((kind) => `| \`${kind}\` | ${BENCH_FINDINGS[kind]} |`),
    ].join('\n'),
  faults: () =>
    Object.values(FAULT_TITLES)
      .map((title) => `- ${title}`)
      .join('\n'),
};

const mark = (name: string, edge: 'begin' | 'end'): string => `<!-- ${name}: ${edge} -->`;

/** The page with its tables as the code has them. */
export function withTables(page: string): string {
  let text = page;
  for (const [name, print] of Object.entries(BENCH_TABLES)) {
    const from = text.indexOf(mark(name, 'begin'));
    const to = text.indexOf(mark(name, 'end'));
    if (from < 0 || to < from) throw new Error(`docs/bench.md has no place for ${name}`);
    text = `${text.slice(0, from + mark(name, 'begin').length)}\n${print()}\n${text.slice(to)}`;
  }
  return text;
}
