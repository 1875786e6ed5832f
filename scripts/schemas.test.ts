import { readdirSync, readFileSync } from 'node:fs';
import Ajv from 'ajv';
import { publishedSchemas } from './schemas';

test.each(publishedSchemas())('$file is as the code prints it: npm run docs:schemas', ({ file, text }) => {
  expect(readFileSync(file, 'utf8')).toBe(text);
});

// Commands take this for granted: checking the schemas each time would cost a tenth of a second.
test.each(readdirSync('docs/schema'))('%s is a JSON Schema', (name) => {
  const schema = JSON.parse(readFileSync(`docs/schema/${name}`, 'utf8'));
  const ajv = new Ajv({ strict: false });
  expect({ valid: ajv.validateSchema(schema), errors: ajv.errors }).toEqual({ valid: true, errors: null });
});
