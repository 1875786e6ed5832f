import { CONDITION_WORDS, STEP_WORDS } from './forms';
import { type Names, nameText, targetOf } from './names';
import { type Word, wordsOf } from './words';

/** A line with nets, buses and trials named by their ids: as plans keep it. What is not understood stays as it is. */
export const withIds = (line: string, names: Names): string =>
  renamed(line, (word, isTrial) => {
    if (word.byId) return undefined;
    if (isTrial) {
      const trial = names.trials.find((one) => one.name === word.text);
      return trial && `{${trial.id}}`;
    }
    const target = targetOf(names, word.text, false);
    return target && `{${target.ref}}`;
  });

/** A line as it is shown and written: with names. */
export const withNames = (line: string, names: Names): string =>
  renamed(line, (word, isTrial) => {
    if (!word.byId) return undefined;
    if (isTrial) {
      const trial = names.trials.find((one) => one.id === word.text);
      return trial && `"${trial.name.replaceAll('"', '')}"`;
    }
    const target = names.byId.get(word.text);
    return target && nameText(target.name);
  });

/** Words that are names where nets may be; the others are words of the language. */
function renamed(line: string, change: (word: Word, isTrial: boolean) => string | undefined): string {
  const { words } = wordsOf(line);
  let text = '';
  let done = 0;
  words.forEach((word, at) => {
    if (word.kind !== 'word' && word.kind !== 'name') return;
    if (word.kind === 'word' && !mayBeName(words, at)) return;
    const to = change(word, words[at - 1]?.text === 'trial' && words[at - 2]?.text === 'from');
    if (to === undefined) return;
    text += line.slice(done, word.from) + to;
    done = word.to;
  });
  return text + line.slice(done);
}

/** Whether a net can stand at a place: at the beginning of a step, or after a word that asks for one. */
export function mayBeName(words: readonly Word[], at: number): boolean {
  const before = words[at - 1];
  const word = words[at] as Word;
  const isFirst = before === undefined || before.text === ';' || before.text === ':';
  if (isFirst) return !STEP_WORDS.has(word.text);
  if (before.kind === 'name') return words[at - 2]?.text === 'press' || words[at - 2]?.text === 'release';
  if (['press', 'release', 'tip', 'turn', 'read', 'interrupt', 'wake'].includes(before.text)) return true;
  if (before.text === 'expect' || (before.text === 'for' && words[at - 2]?.text === 'wait'))
    return !CONDITION_WORDS.has(word.text);
  return (words[at - 2]?.text === 'press' || words[at - 2]?.text === 'release') && word.text !== 'bounce';
}
