import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { readDeviceFolder } from './files/devices';

/**
 * The recipes of "How to add" in docs/architecture.md, followed in a copy of the sources: what the page says is enough, what it
 * says the compiler asks for it does ask for, and as many files are touched as it says.
 */
const COPY = resolve('.mavrek/how-to-add');

/** What is written into a file: the whole of it, or pieces put in front of what stands there. */
type Written = string | { before: string; text: string }[];

/** Files by path, in the order in which a person would come to them. */
type Recipe = Record<string, Written>;

beforeAll(() => {
  rmSync(COPY, { recursive: true, force: true });
  mkdirSync(COPY, { recursive: true });
  for (const name of ['src', 'scripts', 'devices', 'examples', 'docs', 'package.json', 'jest.config.mjs'])
    cpSync(name, join(COPY, name), { recursive: true });
  symlinkSync(resolve('node_modules'), join(COPY, 'node_modules'));
  const { compilerOptions } = JSON.parse(readFileSync('tsconfig.json', 'utf8'));
  const { plugins: _editor, incremental: _again, ...options } = compilerOptions;
  writeFileSync(
    join(COPY, 'tsconfig.json'),
    JSON.stringify({ compilerOptions: options, include: ['types.d.ts', 'src/**/*.ts', 'src/**/*.tsx'] }),
  );
  writeFileSync(join(COPY, 'types.d.ts'), '/// <reference types="next" />\n');
});
afterAll(() => rmSync(COPY, { recursive: true, force: true }));

function write(recipe: Recipe): void {
  for (const [path, written] of Object.entries(recipe)) {
    const file = join(COPY, path);
    mkdirSync(dirname(file), { recursive: true });
    let text = typeof written === 'string' ? written : readFileSync(file, 'utf8');
    if (typeof written !== 'string')
      for (const { before, text: added } of written) {
        if (!text.includes(before)) throw new Error(`${path} has no ${before}`);
        text = text.replace(before, () => `${added}${before}`);
      }
    writeFileSync(file, text);
  }
}

function takeBack(recipe: Recipe): void {
  for (const [path, written] of Object.entries(recipe)) {
    if (typeof written === 'string') rmSync(join(COPY, path));
    else cpSync(path, join(COPY, path));
  }
}

function run(program: string, ...args: string[]): string {
  try {
    execFileSync(resolve('node_modules/.bin', program), args, { cwd: COPY, encoding: 'utf8', stdio: 'pipe' });
    return '';
  } catch (error) {
    const { stdout, stderr } = error as { stdout: string; stderr: string };
    return `${stdout}${stderr}`;
  }
}

const compile = (): string => run('tsc', '--noEmit');
const test1 = (path: string, name?: string): string =>
  run('jest', '--globalSetup=', path, ...(name ? ['-t', name] : []));

/** Files in which the compiler finds something missing. */
const asked = (): string[] => [
  ...new Set([...compile().matchAll(/^(src\/[^(]+)\(\d+,\d+\): error/gm)].map(([, path]) => path ?? '')),
];

/** The figure of a row of the table. */
function figure(what: string): string {
  const row = readFileSync('docs/architecture.md', 'utf8')
    .split('\n')
    .find((line) => line.includes(`**${what}**`));
  return row?.split('|').at(-3)?.trim() ?? '';
}

const only = (recipe: Recipe, ...paths: string[]): Recipe =>
  Object.fromEntries(Object.entries(recipe).filter(([path]) => paths.includes(path)));

/** Follows a recipe: without the files that the compiler asks for it asks for just these, and with them for nothing. */
function follow(what: string, recipe: Recipe, asksFor: readonly string[], more?: () => void): void {
  const first = Object.keys(recipe).filter((path) => !asksFor.includes(path));
  try {
    write(only(recipe, ...first));
    if (asksFor.length > 0) expect(asked().sort()).toEqual([...asksFor].sort());
    write(only(recipe, ...asksFor));
    expect(compile()).toBe('');
    more?.();
  } finally {
    takeBack(recipe);
  }
  expect(figure(what)).toMatch(new RegExp(`(^|\\D)${Object.keys(recipe).length}(\\D|$)`));
}

test('the copy is right before anything is added', () => {
  expect(compile()).toBe('');
});

test('a setting', () => {
  const roles = 'src/core/import/attach/roles.ts';
  const recipe: Recipe = {
    'src/core/description/settings.ts': [
      {
        before: '  trigger: {',
        text: `  keeper: {
    title: 'keeper',
    values: { off: 'lets go of the last level', on: 'holds the last level weakly' },
    usual: [],
    appliesTo: ['input', 'function'],
    asked: true,
    ofLine: false,
    oneField: true,
    early: true,
    anyBetween: true,
  },
`,
      },
    ],
    [roles]: [
      {
        before: "  inputBuffer: oneField('inputBuffer', {",
        text: `  keeper: oneField('keeper', {
    title: 'holds the last level',
    values: { off: 0, on: 1 },
    bits: [1],
    words: /keeper|holds the last/,
  }),
`,
      },
    ],
  };
  follow('setting', recipe, [roles], () => {
    // Lists, printing, reading of edits and inference have it: their tests go over the table.
    expect(test1('src/core/plan/plan.test.ts')).toBe('');
  });
});

test('an edit kind', () => {
  const registry = 'src/core/plan/edits/edits.ts';
  const recipe: Recipe = {
    'src/core/plan/edits/net-move.ts': `import { ok } from '../../base/result';
import { planRef } from '../model/schema-parts';
import { type EditKind, POSITION, refuse, shape, unsigned } from './kind';

export interface NetMoveEdit {
  kind: 'net.move';
  id: string;
  from: number;
  to: number;
}

export const netMove: EditKind<NetMoveEdit> = {
  apply(plan, { id, from, to }) {
    const net = plan.nets[from];
    if (net?.id !== id) return refuse('that net is elsewhere now');
    const rest = plan.nets.filter((one) => one !== net);
    return ok({ ...plan, nets: [...rest.slice(0, to), net, ...rest.slice(to)] });
  },
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  signs: unsigned,
  describe: () => 'move a net',
  schemas: shape('net.move', { id: planRef('id'), from: POSITION, to: POSITION }),
};
`,
    [registry]: [
      {
        before: 'import {\n  type ConstraintAddEdit',
        text: "import { type NetMoveEdit, netMove } from './net-move';\n",
      },
      { before: '  | CircuitRemoveEdit', text: '  | NetMoveEdit\n' },
      { before: "  'circuit.remove': circuitRemove", text: "  'net.move': netMove,\n" },
    ],
  };
  follow('edit kind', recipe, [], () => {
    expect(test1('src/core/plan/plan.test.ts')).toBe('');
  });
  // Without its line in the registry nothing compiles.
  const [types, union] = recipe[registry] as { before: string; text: string }[];
  const forgotten = { ...recipe, [registry]: [types, union] as { before: string; text: string }[] };
  write(forgotten);
  expect(asked()).toContain(registry);
  takeBack(forgotten);
});

test('a field of a net', () => {
  const schema = 'src/core/plan/model/schema.ts';
  const words = 'src/core/plan/edits/net-set.ts';
  const recipe: Recipe = {
    'src/core/plan/model/types.ts': [
      { before: '  note?: string;\n}\n\nexport interface Circuit {', text: '  author?: string;\n' },
    ],
    [schema]: [
      {
        before: "      note: a('note'),\n    },\n    ['id', 'name', 'circuit'",
        text: "      author: a('note'),\n",
      },
    ],
    [words]: [
      {
        before: "  note: { value: planRef('note')",
        text: "  author: { value: planRef('note'), empty: '', describe: (name) => name },\n",
      },
    ],
  };
  follow('field of a net', recipe, [schema, words]);
});

test('a rule', () => {
  const recipe: Recipe = {
    'src/core/derive/rules/code/long-name.ts': `import type { Rule } from '../types';

export const longName: Rule = {
  meta: {
    id: 'long-name',
    severity: 'note',
    title: 'A long name',
    means: 'The name of the net is longer than most editors show.',
    fix: 'Shorten it.',
  },
  per: 'net',
  check: ({ net }) => (net.name.length > 60 ? { message: \`\\\`\${net.name}\\\` is long.\`, pads: [], nets: [net.id] } : undefined),
};
`,
    'src/core/derive/check/catalogue.ts': [
      { before: 'import { nameTwice }', text: "import { longName } from '../rules/code/long-name';\n" },
      { before: '  padMissing,\n', text: '  longName,\n' },
    ],
    'src/core/derive/rules/unused/unused.cases.ts': [
      {
        before: "  'circuit-twice': [",
        text: `  'long-name': [
    { name: 'a short one', plan: one('B7', {}), messages: [] },
    { name: 'a long one', plan: one('B7', { name: 'N'.repeat(61) }), messages: [/is long/], remedies: [[]] },
  ],
`,
      },
    ],
  };
  const rules = 'src/core/derive/check/rules.test.ts';
  follow('rule', recipe, [], () => expect(test1(rules, 'long-name')).toBe(''));
  // A rule without cases is asked for by a test.
  const without = only(
    recipe,
    'src/core/derive/rules/code/long-name.ts',
    'src/core/derive/check/catalogue.ts',
  );
  write(without);
  expect(test1(rules, 'has cases')).toContain('long-name');
  takeBack(without);
});

test('a target', () => {
  const recipe: Recipe = {
    'src/core/output/code/list/target.ts': `import { makeWriter } from '../code';
import type { Target } from '../types';

const { code, join, trusted, decimal } = makeWriter<'list'>();

/** What a line of a list can hold. */
const word = (text: string) => trusted(text.replace(/[^A-Za-z0-9_.-]/g, '_'));

export const listTarget: Target = {
  id: 'list',
  title: 'list',
  language: 'plain',
  seal: (text) => code\`- \${word(text)}\\n\`,
  files: ({ resolved }) => [
    {
      path: 'pads.txt',
      print: () => ({
        text: join(
          resolved.map((one, at) => code\`\${decimal(at)} \${word(one.pad?.id ?? 'none')}\\n\`),
          code\`\`,
        ),
      }),
    },
  ],
};
`,
    'src/core/output/targets.ts': [
      { before: 'import type { Target }', text: "import { listTarget } from './code/list/target';\n" },
      { before: '  markdownTarget,', text: '  listTarget,\n' },
    ],
  };
  follow('target', recipe, []);
});

test('something attachable', () => {
  const behaviours = 'src/core/bench/attached/kinds.ts';
  const signs = 'src/ui/bench/symbols.tsx';
  const recipe: Recipe = {
    'src/core/plan/model/attachments.ts': [
      {
        before: "  capacitor: {\n    title: 'capacitor to ground'",
        text: `  heater: {
    title: 'heater',
    poles: ['net'],
    figures: { ohms: figure('resistance', 'Ω', 1000, 1, 1e6) },
    verbs: [],
  },
`,
      },
    ],
    [behaviours]: [
      {
        before: '  capacitor,\n',
        text: `  heater: ({ nodes, figures }) => {
    const element = toRail(nodes[0] as number, 0, figures.ohms ?? 1000);
    return lasting([element], (amperes) => ({ word: amperes(element) > 1e-3 ? 'warm' : 'cold' }));
  },
`,
      },
      {
        before: 'import type { AttachmentKind }',
        text: "import { toRail } from '../circuit/elements';\nimport { lasting } from './types';\n",
      },
    ],
    [signs]: [
      {
        before: '  capacitor: () => (',
        text: `  heater: () => <path d="M0 11h30v-5h24v10h-24v-5" />,
`,
      },
    ],
  };
  follow('attachable', recipe, [behaviours, signs]);
});

test('a part: three files and no code', () => {
  const folder = join(COPY, 'devices/mellin-m1');
  mkdirSync(folder);
  const files = readdirSync('devices/pellin-p8');
  for (const file of files)
    writeFileSync(
      join(folder, file),
      readFileSync(join('devices/pellin-p8', file), 'utf8').replaceAll('pellin-p8', 'mellin-m1'),
    );
  const device = readDeviceFolder(folder);
  expect(device.ok ? [device.value.description.id, device.value.packages.size > 0] : device.problems).toEqual(
    ['mellin-m1-22', true],
  );
  expect(figure('part')).toBe(String(files.length));
});

test('a view', () => {
  const help = 'src/ui/help/view-help.tsx';
  const workspace = 'src/ui/workspace/workspace.tsx';
  const recipe: Recipe = {
    'src/ui/notes/notes-view.tsx': `'use client';

import { useDerived } from '../workspace/context';

/** What nets say in their notes. */
export function NotesView() {
  const { derived } = useDerived();
  return (
    <ul>
      {derived.plan.nets.map((net) => (
        <li key={net.id}>{net.note}</li>
      ))}
    </ul>
  );
}
`,
    [help]: [
      {
        before: '  code: {\n    shows:',
        text: "  notes: { shows: 'What nets say in their notes.', does: [] },\n",
      },
    ],
    'src/ui/workspace/selection.ts': [
      { before: "  { id: 'code', title: 'Code' },", text: "  { id: 'notes', title: 'Notes' },\n" },
    ],
    [workspace]: [
      {
        before: 'const CodeView = later(',
        text: "const NotesView = later('The notes', () => import('../notes/notes-view').then((one) => one.NotesView));\n",
      },
      { before: '  code: () => <CodeView />,', text: '  notes: () => <NotesView />,\n' },
    ],
    'src/ui/commands/commands.ts': [
      {
        before: "  {\n    id: 'functions',",
        text: `  {
    id: 'notes',
    title: 'Show the notes',
    group: 'Show',
    keys: 'Alt N',
    matches: (event) => event.altKey && event.key === 'n',
    applies: () => true,
    run: ({ setView }) => setView('notes'),
  },
`,
      },
    ],
  };
  follow('view', recipe, [help, workspace]);
});
