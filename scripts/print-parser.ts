import { readFileSync, writeFileSync } from 'node:fs';
import { buildParserFile } from '@lezer/generator';
import { OTHER_WORDS, STEP_WORDS } from '@/core/bench/script/forms';

/** The editors' parsers, generated from their grammars: npm run docs:parser */
export const PARSERS: readonly { grammar: string; parser: string }[] = [
  { grammar: 'src/ui/part/text/part-text.grammar', parser: 'src/ui/part/text/part-text-parser.ts' },
  {
    grammar: 'src/ui/bench/trial-text/trial-text.grammar',
    parser: 'src/ui/bench/trial-text/trial-text-parser.ts',
  },
];

const choice = (words: ReadonlySet<string>): string => [...words].map((word) => `"${word}"`).join(' | ');

export function parserText(file: string): string {
  const grammar = readFileSync(file, 'utf8')
    .replace('<Name, STEP_WORDS>', `<Name, ${choice(STEP_WORDS)}>`)
    .replace('<Name, OTHER_WORDS>', `<Name, ${choice(OTHER_WORDS)}>`);
  const { parser } = buildParserFile(grammar, { typeScript: true, fileName: file.split('/').at(-1) });
  return `// biome-ignore-all assist/source/organizeImports: generated\n// biome-ignore-all lint: generated\n// biome-ignore-all format: generated\n${parser}`;
}

if (process.argv[1]?.endsWith('print-parser.ts'))
  for (const { grammar, parser } of PARSERS) writeFileSync(parser, parserText(grammar));
