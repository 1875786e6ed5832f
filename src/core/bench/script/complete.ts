import type { NetSort } from './forms';
import type { Expected } from './match';
import { type Names, nameText } from './names';
import { expectedAfter } from './parse';
import { wordsOf } from './words';

/** What a line could go on with: the text that replaces the word that is being typed. */
export interface Completion {
  text: string;
  /** What it is, for words that do not say it. */
  says: string;
}

const MOST = 30;

/** Completions of a line that is typed up to its end, and where the word that they replace begins. */
export function completionsFor(line: string, names: Names): { from: number; list: Completion[] } {
  const { words } = wordsOf(line);
  const last = words.at(-1);
  // A word that the line ends with is still being typed.
  const typing = last && last.to === line.length && last.kind !== 'symbol' ? last : undefined;
  const from = typing?.from ?? line.length;
  const start = line.slice(from).replace(/^"/, '').toLowerCase();
  const expected = expectedAfter(line.slice(0, from), names, variablesOf(line));
  const list = new Map<string, Completion>();
  for (const one of expected) {
    for (const { text, says } of textsOf(one, names)) {
      const plain = text.replace(/^"/, '').toLowerCase();
      if (plain.startsWith(start) && plain !== start && !list.has(text)) list.set(text, { text, says });
    }
  }
  // What contains the word comes after what begins with it.
  if (start.length > 1)
    for (const one of expected)
      for (const { text, says } of textsOf(one, names))
        if (text.toLowerCase().includes(start) && text.toLowerCase() !== start && !list.has(text))
          list.set(text, { text, says });
  return { from, list: [...list.values()].slice(0, MOST) };
}

const variablesOf = (line: string): Set<string> =>
  new Set(/\bwith\s+([A-Za-z_]\w*)/.exec(line)?.slice(1) ?? []);

function textsOf(expected: Expected, names: Names): Completion[] {
  if ('word' in expected)
    return expected.word === '' || expected.word.includes(' ') ? [] : [{ text: expected.word, says: '' }];
  switch (expected.kind) {
    case 'net':
      return (
        names.targets
          .filter((one) => !one.group && suits(names, one.id, expected.which as NetSort))
          // Contacts proper come before lines of chips, which can be pulled as well.
          .sort(
            (a, b) =>
              Number(names.sorts.get(b.id)?.has('button')) - Number(names.sorts.get(a.id)?.has('button')),
          )
          .map((one) => ({ text: nameText(one.name), says: 'net' }))
      );
    case 'target':
      return names.targets
        .filter((one) => (expected.which === 'driven' ? one.driven : one.read))
        .map((one) => ({ text: nameText(one.name), says: one.group ? `${one.nets.length} bits` : 'net' }));
    case 'stage':
      return names.stages.map((text) => ({ text, says: 'stage' }));
    case 'routine':
      return names.routines.map((text) => ({ text, says: 'routine' }));
    case 'trial':
      return names.trials.map(({ name }) => ({ text: `"${name}"`, says: 'trial' }));
    case 'time':
      return [{ text: '20 ms', says: 'a time' }];
    case 'volts':
      return [{ text: '1.2 V', says: 'a voltage' }];
    default:
      return [];
  }
}

const suits = (names: Names, net: string, which: NetSort | undefined): boolean =>
  which === undefined || which === 'any' || names.sorts.get(net)?.has(which) === true;
