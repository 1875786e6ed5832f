import { readFileSync, writeFileSync } from 'node:fs';
import { buildParserFile } from '@lezer/generator';

/** The editor's parser, generated from its grammar: npm run docs:parser */
export const PARSER_FILE = 'src/ui/part/text/part-text-parser.ts';

export function parserText(): string {
  const grammar = readFileSync('src/ui/part/text/part-text.grammar', 'utf8');
  const { parser } = buildParserFile(grammar, { typeScript: true, fileName: 'part-text.grammar' });
  return `// biome-ignore-all lint: generated\n// biome-ignore-all format: generated\n${parser}`;
}

if (process.argv[1]?.endsWith('print-parser.ts')) writeFileSync(PARSER_FILE, parserText());
