import { expectOk } from '@/testing/expect-ok';
import type { LineForm } from './forms';
import { PART_LINES } from './part';
import { formatPartText } from './text-form';

/** Each line form with those that it stands under. */
function forms(
  lines: readonly LineForm[],
  above: readonly string[] = [],
): { form: LineForm; above: readonly string[] }[] {
  return lines.flatMap((form) => [{ form, above }, ...forms(form.children ?? [], [...above, form.example])]);
}

test.each(forms(PART_LINES).map(({ form, above }) => [form.says, form, above] as const))(
  'the example of %s is right, and as such lines are printed',
  (_says, form, above) => {
    const lines = [...above, form.example].map((line, depth) => `${'  '.repeat(depth)}${line}\n`);
    expect(expectOk(formatPartText('example', lines.join('')))).toBe(lines.join(''));
  },
);
