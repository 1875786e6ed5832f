import { writeFileSync } from 'node:fs';
import { partTextPage } from '../src/core/description/part-text/page';

/** Prints `docs/part-text.md` from the forms of lines: npm run docs:grammar */
writeFileSync('docs/part-text.md', partTextPage());
