import { type PartComparison, type PartDifference, type TriedSettings, verdictOf } from './compare-parts';

/** A comparison of two descriptions in words; what was not shown is said as well. */
export function partComparisonText(comparison: PartComparison, first: string, second: string): string {
  const { differences, names, behaviour } = comparison;
  const { shown, unproven, wrong } = behaviour;
  const lines = [`${first} and ${second}`];
  if (differences.length > 0) lines.push('', `${count(differences.length, 'difference')}:`);
  for (const each of differences) lines.push(`  ${differenceText(each)}`);
  if (names.length > 0) {
    lines.push('', 'The same under two names, which mean nothing to the hardware:');
    for (const each of names) lines.push(`  ${each}`);
  }
  lines.push('', 'Behaviour, each pad alone, from reset and from every state:');
  if (shown > 0)
    lines.push(
      `  ${count(shown, 'setting')} of pads: the code of both was shown right on the registers of both`,
    );
  const tried = ({ pad, settings, whose, style, message }: TriedSettings, is: string): string =>
    `  ${pad} as ${settings}: the code of ${whose === 'first' ? first : second} (${style}) ${is}: ${message}`;
  for (const each of wrong) lines.push(tried(each, 'is not right on the other'));
  for (const each of unproven)
    lines.push(tried(each, 'is not proven on its own registers, so nothing is said of it'));
  lines.push('', VERDICTS[verdictOf(comparison)]);
  lines.push(
    'Not compared: titles and sources, electrical figures of supplies and packages, rates, what several pads do together.',
  );
  return lines.join('\n');
}

/** The outcome in a sentence. */
export const VERDICTS = {
  same: 'The two do the same.',
  different: 'The two are not the same.',
  open: 'Nothing differs, but not all of it was shown.',
} as const;

const count = (number: number, word: string): string => `${number} ${word}${number === 1 ? '' : 's'}`;

const differenceText = ({ about, first, second }: PartDifference): string =>
  `${about}: ${first || 'nothing'} ≠ ${second || 'nothing'}`;
