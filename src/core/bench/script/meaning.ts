import type { Derived } from '../../derive/derive';
import { roleText } from '../../plan/model/types';
import { FORMS, STEP_WORDS } from './forms';
import { namesIn, targetOf } from './names';
import { mayBeName } from './rename';
import { type Word, wordsOf } from './words';

/**
 * What a word of a trial means: the step that it begins, a net or several of the plan, or the number that a repetition counts. Words are
 * looked at in their line; what a repetition counts is looked for upwards, in lines that stand less deep.
 */
export interface WordMeaning {
  /** Columns of the word, from 0. */
  from: number;
  to: number;
  heading: string;
  facts: string[];
  /** Of what a repetition counts: all places where it stands, the first being where it is named. */
  uses?: ScriptPlace[];
}

export interface ScriptPlace {
  line: number;
  from: number;
  to: number;
}

export function meaningInScript(
  derived: Derived,
  lines: readonly string[],
  line: number,
  column: number,
): WordMeaning | undefined {
  const { words } = wordsOf(lines[line] ?? '');
  const at = words.findIndex(({ from, to }) => from <= column && column <= to);
  const word = words[at];
  if (!word || (word.kind !== 'word' && word.kind !== 'name')) return undefined;
  const place = { from: word.from, to: word.to };
  const uses = word.kind === 'word' ? usesOfCounted(lines, line, word) : [];
  if (uses.length > 0)
    return {
      ...place,
      heading: word.text,
      facts: [`counts the repetitions of line ${(uses[0]?.line ?? 0) + 1}, from 0`],
      uses,
    };
  if (word.kind === 'name' || mayBeName(words, at) || words[at + 1]?.text === 'reads') {
    const meaning = targetMeaning(derived, word);
    if (meaning) return { ...place, ...meaning };
  }
  if (!beginsStep(words, at)) return undefined;
  const forms = FORMS.filter(({ slots: [first] }) => first?.slot === 'word' && first.text === word.text);
  // "wait for" is another step than "wait".
  const form =
    forms.find(({ slots: [, second] }) => second?.slot === 'word' && second.text === words[at + 1]?.text) ??
    forms.find(({ slots: [, second] }) => second?.slot !== 'word');
  return (
    form && {
      ...place,
      heading: word.text,
      facts: [form.says.replaceAll('`', ''), `example: ${form.example}`],
    }
  );
}

const beginsStep = (words: readonly Word[], at: number): boolean =>
  STEP_WORDS.has(words[at]?.text ?? '') && (at === 0 || [';', ':'].includes(words[at - 1]?.text ?? ''));

function targetMeaning(
  derived: Derived,
  { text, byId }: Word,
): Pick<WordMeaning, 'heading' | 'facts'> | undefined {
  const target = targetOf(namesIn(derived), text, byId === true);
  if (!target) return undefined;
  const can = [target.driven ? 'driven' : '', target.read ? 'read' : ''].filter(Boolean).join(' and ');
  const access = can === '' ? 'the code has no function for it' : `${can} by the code`;
  if (target.group)
    return {
      heading: target.name,
      facts: [
        `${target.nets.length} bits: ${target.nets.map((id) => nameOf(derived, id)).join(', ')}`,
        access,
      ],
    };
  const resolved = derived.byNet.get(target.nets[0] ?? '');
  const { net, pad, pins = [] } = resolved ?? {};
  return {
    heading: target.name,
    facts: [
      ...(net ? [roleText(net.role)] : []),
      pad ? `pad ${pad.id}${pins.length > 0 ? `, pin ${pins.join(', ')}` : ''}` : 'not placed',
      access,
    ],
  };
}

const nameOf = (derived: Derived, id: string): string => derived.byNet.get(id)?.net.name ?? id;

const depthOf = (text: string): number => text.length - text.trimStart().length;

/** The name that a repetition counts with, where a line has one. */
const countedIn = (text: string): Word | undefined => {
  const { words } = wordsOf(text);
  return words.find((_, at) => words[at - 1]?.text === 'with' && words[at - 3]?.text === 'repeat');
};

/** All places of a counted name within its repetition; none where the word is no such name. */
function usesOfCounted(lines: readonly string[], line: number, { text }: Word): ScriptPlace[] {
  let depth = Number.POSITIVE_INFINITY;
  for (let at = line; at >= 0; at--) {
    const row = lines[at] ?? '';
    if (row.trim() === '' || depthOf(row) >= depth) continue;
    depth = depthOf(row);
    if (countedIn(row)?.text === text) return placesWithin(lines, at, text);
  }
  return [];
}

function placesWithin(lines: readonly string[], first: number, text: string): ScriptPlace[] {
  const depth = depthOf(lines[first] ?? '');
  const places: ScriptPlace[] = [];
  for (let line = first; line < lines.length; line++) {
    const row = lines[line] ?? '';
    if (line > first && row.trim() !== '' && depthOf(row) <= depth) break;
    for (const word of wordsOf(row).words)
      if (word.kind === 'word' && word.text === text) places.push({ line, from: word.from, to: word.to });
  }
  return places;
}
