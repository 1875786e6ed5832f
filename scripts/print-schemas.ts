import { writeFileSync } from 'node:fs';
import { publishedSchemas } from './schemas';

/** Prints the schemas in `docs/schema/` from the tables of the code: npm run docs:schemas */
for (const { file, text } of publishedSchemas()) writeFileSync(file, text);
