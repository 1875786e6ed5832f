import { readFileSync } from 'node:fs';
import { FORMS, OTHER_WORDS, STEP_WORDS } from '@/core/bench/script/forms';
import { wordsOf } from '@/core/bench/script/words';
import { parser as trialParser } from '@/ui/bench/trial-text/trial-text-parser';
import { PARSERS, parserText } from './print-parser';

test.each(PARSERS)(
  '$parser is what its grammar gives; npm run docs:parser prints it',
  ({ grammar, parser }) => {
    expect(readFileSync(parser, 'utf8')).toBe(parserText(grammar));
  },
);

test('the editor of trials sees words where the reader of trials sees them', () => {
  for (const { example } of FORMS) {
    const seen: [string, string][] = [];
    trialParser.parse(example).iterate({
      enter({ name, from, to }) {
        if (name !== 'Trial' && name !== 'Bracketed') seen.push([name, example.slice(from, to)]);
      },
    });
    expect(seen.map(([name]) => name)).not.toContain('⚠');
    const words = wordsOf(example).words.filter(({ kind }) => kind === 'word');
    for (const { text } of words) {
      if (text === '%') continue;
      const name = STEP_WORDS.has(text) ? 'Keyword' : OTHER_WORDS.has(text) ? 'Setting' : 'Name';
      expect(seen).toContainEqual([name, text]);
    }
  }
});
