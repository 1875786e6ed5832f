import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

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

const files = sources('src').filter((file) => !/\.(test|cases)\.ts$/.test(file));
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

/** The way of the data through the core: a room imports only from those above it. */
const ROOMS = [
  'base',
  'description',
  'import',
  'device',
  'plan',
  'derive/electrical',
  'derive/resolve',
  'derive/candidates',
  'derive/machine',
  'derive/lower',
  'derive/simulate',
  'derive/routines',
  'derive/accessors',
  'derive/board',
  'derive/rules',
  'derive/check',
  'derive',
  'read-back',
  'existing-code',
  'place',
  'part-change',
  'output',
  'compare',
  'part-meaning',
  'review',
  'people',
  'variants',
  'bench',
];

function roomOf(file: string): string {
  const [first = '', second] = file.slice('src/core/'.length).split('/').slice(0, -1);
  return first === 'derive' && second !== undefined ? `derive/${second}` : first;
}

/** File → the files of the core that it imports, types too. */
const coreImports = new Map(
  files
    .filter((file) => file.startsWith('src/core/'))
    .map((file): [string, string[]] => [
      file,
      importsOf(file)
        .filter((specifier) => specifier.startsWith('.'))
        .map((specifier) => `${join(file, '..', specifier)}.ts`)
        .filter((target) => target.startsWith('src/core/')),
    ]),
);

test('the core is imported along the way of the data only', () => {
  const wrong = [...coreImports].flatMap(([file, targets]) =>
    targets
      .filter((target) => ROOMS.indexOf(roomOf(target)) > ROOMS.indexOf(roomOf(file)))
      .map((target) => `${file} → ${target}`),
  );
  expect(wrong).toEqual([]);
  expect([...coreImports.keys()].filter((file) => !ROOMS.includes(roomOf(file)))).toEqual([]);
  // Import reads what people bring; nothing of a plan or a compiled part is its business, and the other way about.
  expect(
    [...coreImports]
      .filter(([file]) => roomOf(file) !== 'import')
      .flatMap(([file, targets]) =>
        targets.filter((target) => roomOf(target) === 'import').map((target) => `${file} → ${target}`),
      ),
  ).toEqual([]);
});

/** The first circle found in a graph, as the names along it. */
function circleIn(graph: ReadonlyMap<string, Iterable<string>>): string[] | undefined {
  const done = new Set<string>();
  const walk = (node: string, path: string[]): string[] | undefined => {
    if (path.includes(node)) return [...path.slice(path.indexOf(node)), node];
    if (done.has(node)) return undefined;
    for (const next of graph.get(node) ?? []) {
      const circle = walk(next, [...path, node]);
      if (circle) return circle;
    }
    done.add(node);
    return undefined;
  };
  for (const node of graph.keys()) {
    const circle = walk(node, []);
    if (circle) return circle;
  }
  return undefined;
}

test('neither files nor folders of the core import each other in a circle', () => {
  expect(
    circleIn(
      new Map([
        ['a', ['b']],
        ['b', ['c']],
        ['c', ['b']],
      ]),
    ),
  ).toEqual(['b', 'c', 'b']);
  expect(circleIn(coreImports)).toBeUndefined();
  const folders = new Map<string, Set<string>>();
  for (const [file, targets] of coreImports) {
    const own = folders.get(dirname(file)) ?? new Set<string>();
    folders.set(dirname(file), own);
    for (const target of targets) if (dirname(target) !== dirname(file)) own.add(dirname(target));
  }
  expect(folders.size).toBeGreaterThan(30);
  expect(circleIn(folders)).toBeUndefined();
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

test('only ui/client fetches, beside the worker that takes fonts for documents, and only server knows pg', () => {
  for (const file of files) {
    const text = readFileSync(file, 'utf8');
    if (/\bfetch\(/.test(text)) expect(file).toMatch(/^src\/(ui\/client\/|workers\/document\.worker\.ts$)/);
    if (importsOf(file).includes('pg')) expect(file).toMatch(/^src\/server\//);
  }
});

test('only writers of languages say of a text that it is code', () => {
  for (const file of files.filter((one) => one.startsWith('src/core/output/'))) {
    if (/\/(code|writer)\.ts$/.test(file)) continue;
    expect([
      file,
      /\bas (C?Code\b|unknown|never|any)|\btrusted\b/.exec(readFileSync(file, 'utf8'))?.[0],
    ]).toEqual([file, undefined]);
  }
});

test('nothing that runs in the page compiles schemas: that would run text as code', () => {
  const compiling =
    /core\/(base\/json\/schemas|import\/compose\/device-files|plan\/file\/(plan-file|read-edit))$/;
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
