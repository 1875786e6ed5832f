import { readFileSync, writeFileSync } from 'node:fs';
import { withTables } from '../src/core/bench/document';

/** Prints the tables of `docs/bench.md` from the code: npm run docs:bench */
writeFileSync('docs/bench.md', withTables(readFileSync('docs/bench.md', 'utf8')));
