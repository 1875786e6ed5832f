import { readdirSync, readFileSync } from 'node:fs';
import { builtinModules } from 'node:module';
import { join } from 'node:path';
import { TERM_KEYS, TERMS } from './core/derive/candidates/terms';

const read = (file: string): string => readFileSync(file, 'utf8');

function sources(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return sources(path);
    return /\.tsx?$/.test(entry.name) && !/\.(test|cases|d)\.tsx?$/.test(entry.name) ? [path] : [];
  });
}

test('what runs imports packages that are installed to run it', () => {
  const { dependencies } = JSON.parse(read('package.json')) as { dependencies: Record<string, string> };
  const used = new Set<string>();
  for (const file of sources('src').filter((one) => !one.startsWith('src/testing/')))
    for (const [, name = ''] of read(file).matchAll(
      /^(?:import|export) (?!type )[^;]*?from '([^'.@][^']*|@[^/'][^']*)'/gm,
    ))
      used.add(name.startsWith('@') ? name.split('/').slice(0, 2).join('/') : (name.split('/')[0] ?? ''));
  expect(used.size).toBeGreaterThan(15);
  const missing = [...used].filter(
    (name) => !(name in dependencies) && !name.startsWith('node:') && !builtinModules.includes(name),
  );
  expect(missing).toEqual([]);
});

test('every room of the core is on the page of architecture, and every page is linked from the first', () => {
  const page = read('docs/architecture.md');
  for (const room of readdirSync('src/core').filter((one) => !one.includes('.')))
    expect([room, page.includes(`\`${room}/`)]).toEqual([room, true]);
  const readme = read('README.md');
  for (const file of readdirSync('docs').filter((one) => one.endsWith('.md')))
    expect([file, readme.includes(`docs/${file}`)]).toEqual([file, true]);
  for (const file of readdirSync('docs/screenshots'))
    expect([file, readme.includes(`docs/screenshots/${file}`)]).toEqual([file, true]);
});

test('the guide lists what a pad costs as it is counted', () => {
  const guide = read('docs/guide.md');
  for (const term of TERM_KEYS) {
    const { title, weight, per, why } = TERMS[term];
    expect(guide).toContain(`| ${title} (\`${term}\`) | ${weight} | ${per} | ${why} |`);
  }
});
