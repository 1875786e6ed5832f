import type { LineForm } from './forms';
import { PART_LINES } from './part';
import { sourceWords } from './shared';

/** The grammar as the docs show it, printed from the forms that read and print: a line each, its options under it. */
export function grammarText(): string {
  const lines: string[] = [];
  const add = (form: LineForm, margin: string): void => {
    const head = form.head.map(({ shows }) => shows);
    const start = [...(form.keyword === undefined ? [] : [`"${form.keyword}"`]), ...head].join(' ');
    lines.push(`${margin}${start}`);
    const lead = form.head.length === 0 ? ' ' : ',';
    form.options.forEach(({ shows }, at) => {
      lines.push(`${margin}    [${at === 0 ? lead : ','} ${shows}]`.replace('[  ', '[ '));
    });
    for (const child of form.children ?? []) add(child, `${margin}  `);
  };
  const { shows } = sourceWords();
  for (const form of PART_LINES) {
    if (lines.length > 0) lines.push('');
    lines.push(`# ${form.says}: ${form.example}`);
    add(form, '');
  }
  lines.push('', '# where it was read', `SOURCE = ${shows}`);
  return `${lines.join('\n')}\n`;
}
