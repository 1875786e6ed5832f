import { readFileSync } from 'node:fs';
import { publishedSchemas } from './schemas';

test.each(publishedSchemas())('$file is as the code prints it: npm run docs:schemas', ({ file, text }) => {
  expect(readFileSync(file, 'utf8')).toBe(text);
});
