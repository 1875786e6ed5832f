import { readFileSync } from 'node:fs';
import { deriveOn, frostGuard } from '@/testing/frost-guard';
import { withTables } from './document';
import { namesIn } from './script/names';
import { parseScript } from './script/parse';

test('the page of the bench has its tables as the code has them', () => {
  const page = readFileSync('docs/bench.md', 'utf8');
  expect(withTables(page)).toBe(page);
});

test('lines in documents are lines of scripts', () => {
  const names = namesIn(deriveOn(frostGuard()));
  const pages = ['docs/guide.md', 'docs/build-server.md', 'docs/plan-format.md'].map((one) =>
    readFileSync(one, 'utf8'),
  );
  const lines = pages.flatMap((page) =>
    [...page.matchAll(/```script\n([\s\S]*?)```/g)].map((match) => (match[1] ?? '').trimEnd()),
  );
  expect(lines.length).toBeGreaterThan(0);
  for (const text of lines)
    expect({ text, problems: parseScript(text.split('\n'), names).problems }).toEqual({ text, problems: [] });
});
