import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Imports point one way: app, ui, workers, cli, server → core; app → server; nothing imports app. */
const ALLOWED: Record<string, string[]> = {
  core: [],
  files: ['core'],
  cli: ['core', 'files'],
  server: ['core', 'files'],
  ui: ['core'],
  workers: ['core'],
  app: ['core', 'server', 'ui'],
  testing: ['core', 'files'],
};

function sources(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return sources(path);
    return /\.tsx?$/.test(entry.name) ? [path] : [];
  });
}

/** Folder of `src` that an import leads to; undefined for packages. */
function targetOf(file: string, specifier: string): string | undefined {
  if (specifier.startsWith('@/')) return specifier.split('/')[1];
  if (!specifier.startsWith('.')) return undefined;
  return join(file, '..', specifier).split('/')[1];
}

const files = sources('src').filter((file) => !file.endsWith('.test.ts') && file !== 'src/structure.test.ts');
const importsOf = (file: string): string[] =>
  [...readFileSync(file, 'utf8').matchAll(/(?:from|import)\s*\(?\s*'([^']+)'/g)].map(
    (match) => match[1] as string,
  );

test.each(Object.keys(ALLOWED))('%s imports only what it may', (layer) => {
  const own = files.filter((file) => file.startsWith(`src/${layer}/`));
  expect(own.length).toBeGreaterThan(0);
  const wrong = own.flatMap((file) =>
    importsOf(file)
      .map((specifier) => targetOf(file, specifier))
      .filter((target) => target !== undefined && target !== layer && target !== '..')
      .filter((target) => !ALLOWED[layer]?.includes(target as string))
      // The published schemas in docs/ are the validators.
      .filter((target) => target !== 'schema')
      .map((target) => `${file} → ${target}`),
  );
  expect(wrong).toEqual([]);
});

test('the core knows neither the browser, nor the server, nor React, nor any part', () => {
  const core = files.filter((file) => file.startsWith('src/core/'));
  for (const file of core) {
    const banned = importsOf(file).filter((one) => /^(node:|react|next|pg$|fs$|path$)/.test(one));
    expect([file, banned]).toEqual([file, []]);
    const text = readFileSync(file, 'utf8').replace(/\/\*[\s\S]*?\*\/|\/\/.*/g, '');
    expect([
      file,
      /\b(document|window|localStorage|process|Corvane|C40)\b\.?/.exec(text)?.[0]?.trim(),
    ]).not.toEqual([file, expect.stringMatching(/Corvane|C40|window|localStorage|process/)]);
  }
});

test('only ui/client fetches, and only server knows pg', () => {
  for (const file of files) {
    const text = readFileSync(file, 'utf8');
    if (/\bfetch\(/.test(text)) expect(file).toMatch(/^src\/ui\/client\//);
    if (importsOf(file).includes('pg')) expect(file).toMatch(/^src\/server\//);
  }
});

test('only writers of languages say of a text that it is code', () => {
  for (const file of files.filter((one) => one.startsWith('src/core/codegen/'))) {
    if (/\/(code|writer)\.ts$/.test(file)) continue;
    expect([
      file,
      /\bas (C?Code\b|unknown|never|any)|\btrusted\b/.exec(readFileSync(file, 'utf8'))?.[0],
    ]).toEqual([file, undefined]);
  }
});

test('nothing that runs in the page compiles schemas: that would run text as code', () => {
  const compiling = /core\/formats\/(schemas|device-files|plan-file|read-edit)$/;
  const reached = new Set<string>();
  const walk = (file: string): void => {
    if (reached.has(file)) return;
    reached.add(file);
    for (const specifier of importsOf(file)) {
      const target = specifier.startsWith('@/')
        ? join('src', specifier.slice(2))
        : specifier.startsWith('.')
          ? join(file, '..', specifier)
          : undefined;
      if (target === undefined) continue;
      expect([file, compiling.test(target)]).toEqual([file, false]);
      const found = files.find((one) => one === `${target}.ts` || one === `${target}.tsx`);
      if (found) walk(found);
    }
  };
  for (const file of files) if (/^src\/(ui|workers)\//.test(file)) walk(file);
  expect(reached.size).toBeGreaterThan(150);
});
