import { listed } from '../../base/text/listed';
import { type PartComparison, type PartDifference, type TriedSettings, verdictOf } from './compare-parts';

/** A comparison of two descriptions in words; what was not shown is said as well. */
export function partComparisonText(comparison: PartComparison, first: string, second: string): string {
  const { differences, names, behaviour } = comparison;
  const { shown, unproven, wrong, more } = behaviour;
  const lines = [`${first} and ${second}`];
  if (differences.length > 0) lines.push('', `${count(differences.length, 'difference')}:`);
  for (const each of differences) lines.push(`  ${differenceText(each)}`);
  if (names.length > 0) {
    lines.push('', 'The same under two names, which mean nothing to the hardware:');
    for (const each of names) lines.push(`  ${each}`);
  }
  lines.push(
    '',
    `${count(comparison.writes, 'single write')} to registers, each bit alone, none and all, were carried out on both.`,
  );
  lines.push('', 'Behaviour, each pad alone, from reset and from every state:');
  if (shown > 0)
    lines.push(
      `  ${count(shown, 'setting')} of pads: the code of both was shown right on the registers of both`,
    );
  const tried = (all: readonly TriedSettings[], is: string): void => {
    for (const group of alike(all)) {
      const [{ pad, settings, whose, style, message }] = group;
      const whom = whose === 'first' ? first : second;
      lines.push(`  ${pad} as ${settings}: the code of ${whom} (${style}) ${is}: ${message}`);
      const pads = new Set(group.map((each) => each.pad));
      if (group.length > 1)
        lines.push(`    and ${count(group.length - 1, 'case')} more like it, on ${listed([...pads])}`);
    }
  };
  tried(wrong, 'is not right on the other');
  tried(unproven, 'is not proven on its own registers, so nothing is said of it');
  if (more > 0) lines.push(`  and ${count(more, 'case')} more that are not listed`);
  lines.push('', VERDICTS[verdictOf(comparison)]);
  lines.push(
    'Not compared: titles and sources, electrical figures of supplies and packages, rates, what several pads do together, what keys and hidden state do over several writes beyond what code needs.',
  );
  return lines.join('\n');
}

/** The outcome in a sentence. */
export const VERDICTS = {
  same: 'In all that was compared, the two do the same.',
  different: 'The two are not the same.',
  open: 'Nothing differs, but not all of it was shown.',
} as const;

/** What is said in the same words but for pads, registers and numbers: one mistake shows on many pads. */
function alike(all: readonly TriedSettings[]): [TriedSettings, ...TriedSettings[]][] {
  const groups = new Map<string, [TriedSettings, ...TriedSettings[]]>();
  for (const each of all) {
    const words = each.message.replaceAll(each.pad, '·').replace(/\b\w+\.\w+\b|\d+/g, '·');
    const group = groups.get(words);
    if (group) group.push(each);
    else groups.set(words, [each]);
  }
  return [...groups.values()];
}

const count = (number: number, word: string): string => `${number} ${word}${number === 1 ? '' : 's'}`;

const differenceText = ({ about, first, second }: PartDifference): string =>
  `${about}: ${first || 'nothing'} ≠ ${second || 'nothing'}`;
