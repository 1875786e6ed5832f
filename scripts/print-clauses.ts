import { writeFileSync } from 'node:fs';
import { clausesPage } from '../src/core/device/clauses/page';

/** Prints `docs/clauses.md` from the shorthands: npm run docs:clauses */
writeFileSync('docs/clauses.md', clausesPage());
