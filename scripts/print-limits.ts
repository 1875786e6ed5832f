import { writeFileSync } from 'node:fs';
import { grouped, limitRows } from '../src/core/base/limits';

/** Prints `docs/limits.md` from the table of limits: npm run docs:limits */
writeFileSync(
  'docs/limits.md',
  `# Limits

How much Mavrek takes. Each limit is well above the largest real part (2,000 balls, 20,000 pad-function pairs, 60,000 registers) and
plan (2,000 nets), and is checked before the work that it bounds; what is over it is refused with a sentence that names it. Heavy work of
the server runs in worker threads, which are stopped at the limits of time and memory; others are served meanwhile.

This page is printed from \`src/core/base/limits.ts\` (\`npm run docs:limits\`).

| what | at most |
|---|---|
${limitRows()
  .map(({ what, value, unit }) => `| ${what} | ${grouped(value)} ${unit} |`)
  .join('\n')}
`,
);
