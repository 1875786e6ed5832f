import { statSync } from 'node:fs';
import { basename } from 'node:path';
import type { Command } from 'commander';
import { Option } from 'commander';
import { readJson } from '@/core/base/json/read-json';
import { filePlace, type Problem } from '@/core/base/problems';
import { fail, failWith, ok, type Result } from '@/core/base/result';
import { fileName } from '@/core/base/text/file-name';
import { didYouMean } from '@/core/base/text/near';
import { compareParts, verdictOf } from '@/core/compare/parts/compare-parts';
import { partComparisonText } from '@/core/compare/parts/print';
import { migrateCorrections } from '@/core/description/migrations';
import { PART_FORMS, type PartForm, REGISTER_FORMS } from '@/core/description/part-forms';
import { formatPartText } from '@/core/description/part-text/text-form';
import { wholeText } from '@/core/description/part-text/written';
import { printDevice } from '@/core/description/print-device';
import { hasRecipe } from '@/core/description/recipe';
import type { RecipeFile } from '@/core/description/recipe-file';
import type { Correction } from '@/core/description/types';
import { clauseLines } from '@/core/device/clauses/clause-lines';
import { loadDevice } from '@/core/device/compile/load';
import { settingsOf } from '@/core/device/decode';
import type { Device } from '@/core/device/device';
import { partFacts } from '@/core/device/part-facts';
import { composeDevice, mapped, placed, type TableMaps } from '@/core/import/compose/compose';
import { parseDevice, readRecipeFile } from '@/core/import/compose/device-files';
import { EMPTY_REST, readDraft } from '@/core/import/compose/draft';
import { printTables } from '@/core/import/compose/print-tables';
import type { Grid } from '@/core/import/tables/grid';
import { guessMapping } from '@/core/import/tables/guess';
import { migrateRole } from '@/core/import/tables/mapping';
import { countFates, type Fate } from '@/core/import/tables/records';
import { printRegisters } from '@/core/output/registers/print-registers';
import { sarifOfProblems } from '@/core/output/reports/sarif';
import { readDevicePath } from '@/files/devices';
import { readTable } from '@/files/table-file';
import { writeFiles } from '@/files/write-files';
import type { Terminal } from './terminal';
import { watchFile, watchFolder } from './watch';

const CLEAN = 0;
const FINDINGS = 1;
const UNUSABLE = 2;

interface ImportOptions {
  pinout: string;
  functions?: string;
  recipe?: string;
  name?: string;
  map?: string;
  corrections?: string;
  out: string;
  format: 'text' | 'json';
}

/** `mavrek device import | check | watch | clauses | format | compare | export`. */
export function addDeviceCommands(program: Command, terminal: Terminal): void {
  const device = program.command('device').description('parts: from tables to a description and back');
  const formatOption = () =>
    new Option('--format <format>', 'how to print').choices(['text', 'json']).default('text');

  device
    .command('import')
    .description('makes a description out of tables; exit status 2 when they do not hold together')
    .requiredOption(
      '--pinout <file>',
      'pinout table: CSV, TSV, text, XLSX or ODS (file.xlsx#sheet), BSDL or IBIS',
    )
    .option(
      '--functions <file>',
      'function table: CSV, TSV, text, XLSX or ODS; without it pads are plain inputs and outputs',
    )
    .option('--recipe <file>', 'recipe.part (or recipe.json): all that the tables do not say')
    .option('--name <name>', 'name of the part, when there is no recipe file')
    .option(
      '--map <file>',
      'JSON that says what columns are, and answers questions: {"pinout": {"heading": "role"}, "functions": {…}, "answers": {…}}',
    )
    .option('--corrections <file>', 'corrections.json to lay over')
    .requiredOption('--out <file>', 'description to write (mavrek-device/3)')
    .addOption(formatOption())
    .action(async (options: ImportOptions) => {
      const made = await importTables(options, terminal);
      if (!made.ok) {
        terminal.complain(made.problems);
        terminal.exit(UNUSABLE);
        return;
      }
      const { device: part, accounting, warnings } = made.value;
      const folder = options.out.includes('/')
        ? options.out.slice(0, options.out.lastIndexOf('/')) || '/'
        : '.';
      const written = writeFiles(
        folder,
        [{ path: basename(options.out), text: printDevice(part.original) }],
        'overwrite',
      );
      if (!written.ok) {
        terminal.complain(written.problems);
        terminal.exit(UNUSABLE);
        return;
      }
      terminal.complain(warnings.map((one) => ({ ...one, message: `warning: ${one.message}` })));
      const report = { ...factsOf(part), rows: accounting, file: options.out };
      if (options.format === 'json') terminal.print(JSON.stringify(report, null, 2));
      else
        terminal.print(
          [...accountingText(accounting), factsText(part), `written to ${options.out}`].join('\n'),
        );
      terminal.exit(part.unapplied.length > 0 ? FINDINGS : CLEAN);
    });

  device
    .command('check')
    .description(
      'checks a description or a folder of tables: exit status 0 good, 1 with corrections that no longer match, 2 unusable',
    )
    .argument('<path>', 'description (.part or .json), or folder with pinout.csv, functions.csv, recipe.part')
    .addOption(formatOption().choices(['text', 'json', 'sarif']))
    .action((path: string, options: { format: CheckFormat }) =>
      terminal.exit(checkPart(path, options.format, terminal)),
    );

  device
    .command('watch')
    .description('checks a part, and again whenever its files change, until it is stopped')
    .argument('<path>', 'description (.part or .json), or folder of tables')
    .action((path: string) => {
      const check = (): void => void checkPart(path, 'text', terminal);
      return statSync(path, { throwIfNoEntry: false })?.isDirectory()
        ? watchFolder(path, (name) => /\.(csv|part|json)$/.test(name), check)
        : watchFile(path, check);
    });

  device
    .command('clauses')
    .description(
      'what reads and writes of registers do, word by word: exit status 2 when there is no such part or register',
    )
    .argument('<path>', 'description (.part or .json), or folder of tables')
    .argument('[register]', 'its name, as PA.OUT; all of them without it')
    .action((path: string, name: string | undefined) => {
      const part = readDevicePath(path);
      const lines = part.ok ? clausesOfPart(part.value, name) : part;
      if (!lines.ok) {
        terminal.complain(lines.problems);
        terminal.exit(UNUSABLE);
        return;
      }
      for (const line of lines.value) terminal.print(line);
      terminal.exit(CLEAN);
    });

  device
    .command('format')
    .description(
      "writes a part's text the way all are written, comments kept: exit status 2 when it cannot be read; with --check 1 when it would change",
    )
    .argument('<file>', "a part's text (.part)")
    .option('--check', 'change nothing, say whether it would')
    .action((path: string, options: { check?: true }) => {
      const formatted = formatFile(path, terminal);
      if (!formatted.ok) {
        terminal.complain(formatted.problems);
        terminal.exit(UNUSABLE);
        return;
      }
      const { changed, text } = formatted.value;
      if (!changed) terminal.print(`${path}: as it should be`);
      else if (options.check) terminal.print(`${path}: would change`);
      else {
        const at = path.lastIndexOf('/');
        const folder = at < 0 ? '.' : path.slice(0, at) || '/';
        const written = writeFiles(folder, [{ path: basename(path), text }], 'overwrite');
        if (!written.ok) {
          terminal.complain(written.problems);
          terminal.exit(UNUSABLE);
          return;
        }
        terminal.print(`${path}: formatted`);
      }
      terminal.exit(changed && options.check ? FINDINGS : CLEAN);
    });

  device
    .command('compare')
    .description(
      'whether two descriptions of a part mean the same, their code proven on the registers of each other: exit status 0 the same, 1 not, 2 unusable',
    )
    .argument('<first>', 'description (.part or .json), or folder of tables')
    .argument('<second>', 'the other one')
    .addOption(formatOption())
    .action((first: string, second: string, { format }: { format: 'text' | 'json' }) => {
      const [one, two] = [readDevicePath(first), readDevicePath(second)];
      if (!one.ok || !two.ok) {
        terminal.complain([one, two].flatMap((part) => (part.ok ? [] : part.problems)));
        terminal.exit(UNUSABLE);
        return;
      }
      const comparison = compareParts(one.value, two.value);
      if (format === 'json') terminal.printJson(comparison);
      else terminal.print(partComparisonText(comparison, first, second));
      terminal.exit(verdictOf(comparison) === 'same' ? CLEAN : FINDINGS);
    });

  device
    .command('export')
    .description(
      'writes a part as tables (a folder), one text, JSON, its registers in an open standard, or the list of its corrections',
    )
    .argument('<path>', 'description (.part or .json), or folder of tables')
    .addOption(new Option('--as <kind>', 'what to write').choices(PART_FORMS).makeOptionMandatory())
    .requiredOption('--out <folder>', 'folder to write to')
    .option('--overwrite', 'replace files that are there and differ')
    .action((path: string, options: { as: PartForm; out: string; overwrite?: true }) => {
      const part = readDevicePath(path);
      const files = part.ok ? exportFiles(part.value, options.as) : part;
      if (!files.ok) {
        terminal.complain(files.problems);
        terminal.exit(UNUSABLE);
        return;
      }
      const written = writeFiles(options.out, files.value, options.overwrite ? 'overwrite' : 'refuse');
      if (!written.ok) {
        terminal.complain(written.problems);
        terminal.exit(FINDINGS);
        return;
      }
      terminal.print(written.value.join('\n'));
      terminal.exit(CLEAN);
    });
}

/** A file in the way that all texts are written; says whether it was another. */
function formatFile(path: string, terminal: Terminal): Result<{ changed: boolean; text: string }> {
  const text = terminal.readText(path);
  if (!text.ok) return text;
  const formatted = formatPartText(path, text.value);
  if (!formatted.ok) return formatted;
  return ok({ changed: formatted.value !== text.value, text: formatted.value });
}

type CheckFormat = 'text' | 'json' | 'sarif';

/** Checks a part and says what it is, or what is wrong and where; the exit status. */
function checkPart(path: string, format: CheckFormat, terminal: Terminal): number {
  const part = readDevicePath(path);
  if (format === 'sarif') terminal.printJson(sarifOfProblems(part.ok ? [] : part.problems, path));
  if (!part.ok) {
    if (format === 'text') terminal.complain(part.problems);
    if (format === 'json') terminal.printJson({ problems: part.problems.map(withPlace) });
    return UNUSABLE;
  }
  if (format === 'json') terminal.printJson(factsOf(part.value));
  if (format === 'text') terminal.print(factsText(part.value));
  return part.value.unapplied.length > 0 ? FINDINGS : CLEAN;
}

/** A problem for programs: file, line and column apart, where it has them. */
const withPlace = (problem: Problem): object => ({ ...problem, ...filePlace(problem.place) });

/** The clauses of one register of a part, or of all. */
function clausesOfPart({ registers }: Device, name: string | undefined): Result<string[]> {
  const chosen = name === undefined ? registers.all : registers.all.filter((one) => one.name === name);
  if (chosen.length === 0)
    return fail({
      place: `register ${name}`,
      message: `the part has none of that name${didYouMean(
        name ?? '',
        registers.all.map((one) => one.name),
      )}`,
    });
  return ok(
    chosen.flatMap((register) => [
      register.name,
      ...clauseLines(registers, register).map((line) => `  ${line}`),
    ]),
  );
}

function exportFiles(device: Device, as: PartForm): Result<{ path: string; text: string }[]> {
  const { original } = device;
  const { id } = original;
  switch (as) {
    case 'tables': {
      const { pinout, functions, recipe } = printTables(original);
      return ok([
        { path: 'pinout.csv', text: pinout },
        { path: 'functions.csv', text: functions },
        { path: 'recipe.part', text: recipe },
      ]);
    }
    case 'text':
      return ok([{ path: `${id}.part`, text: wholeText(original) }]);
    case 'json':
      return ok([{ path: `${id}.device.json`, text: printDevice(original) }]);
    case 'corrections':
      return ok([
        { path: `${id}.corrections.json`, text: `${JSON.stringify(original.corrections ?? [], null, 2)}\n` },
      ]);
    default: {
      const form = REGISTER_FORMS.find((each) => each.id === as);
      return form && hasRecipe(original.recipe)
        ? ok([{ path: `${id}${form.ending}`, text: printRegisters[form.id](device) }])
        : fail({ place: id, message: 'has no registers: attach a recipe first' });
    }
  }
}

type Rows = Partial<
  Record<'pinout' | 'functions', { file: string; rows: number; fates: Partial<Record<Fate, number>> }>
>;

interface Imported {
  device: Device;
  accounting: Rows;
  warnings: Problem[];
}

async function importTables(options: ImportOptions, terminal: Terminal): Promise<Result<Imported>> {
  const pinout = readTable(options.pinout, 'pinout');
  if (!pinout.ok) return pinout;
  const functions = options.functions === undefined ? ok(null) : readTable(options.functions, 'functions');
  if (!functions.ok) return functions;
  const maps = readMaps(options.map, terminal);
  if (!maps.ok) return maps;
  const strange = strangeHeadings(options.map ?? '', maps.value, pinout.value, functions.value);
  if (strange.length > 0) return failWith(strange);
  const corrections = readCorrections(options.corrections, terminal);
  if (!corrections.ok) return corrections;
  const made = options.recipe
    ? withRecipe(pinout.value, functions.value, maps.value, options, terminal)
    : withoutRecipe(pinout.value, functions.value, maps.value, options);
  if (!made.ok) return made;
  const { description, fates, warnings } = made.value;
  const whole =
    corrections.value.length > 0 ? { ...description, corrections: corrections.value } : description;
  // What a user brings is held to the published schema, as when it is read back later.
  const parsed = parseDevice(options.out, printDevice(whole));
  if (!parsed.ok) return parsed;
  const device = loadDevice(parsed.value);
  if (!device.ok) return device;
  const rows = (kind: 'pinout' | 'functions', grid: Grid) => ({
    file: grid.name,
    rows: grid.rows.length,
    fates: fates[kind],
  });
  return ok({
    device: device.value,
    accounting: {
      pinout: rows('pinout', pinout.value),
      ...(functions.value ? { functions: rows('functions', functions.value) } : {}),
    },
    warnings,
  });
}

/** What a datum's source says: the file, not where it lay on the machine it was imported on. */
const documentOf = (grid: Grid | null): string => (grid ? basename(grid.name) : '');

/** Headings of the map that no table has: a slip there would leave a column unread without a word. */
function strangeHeadings(file: string, maps: TableMaps, pinout: Grid, functions: Grid | null): Problem[] {
  return Object.entries({ pinout, functions }).flatMap(([kind, grid]) => {
    const cells = new Set(grid?.rows.slice(0, 50).flatMap((row) => row.cells.map((cell) => cell.trim())));
    return Object.keys(maps[kind as 'pinout' | 'functions'] ?? {})
      .filter((heading) => !cells.has(heading))
      .map((heading) => ({ place: `${file}, ${kind}`, message: `the table has no column "${heading}"` }));
  });
}

function withRecipe(
  pinout: Grid,
  functions: Grid | null,
  maps: TableMaps,
  options: ImportOptions,
  terminal: Terminal,
) {
  const text = terminal.readText(options.recipe ?? '');
  if (!text.ok) return text;
  const file = readRecipeFile({ name: options.recipe ?? '', text: text.value });
  if (!file.ok) return file;
  return composeDevice(pinout, functions, file.value, maps, {
    pinout: documentOf(pinout),
    functions: documentOf(functions),
  });
}

/** Without a recipe file what it would say is inferred, as in the import view. */
function withoutRecipe(pinout: Grid, functions: Grid | null, maps: TableMaps, options: ImportOptions) {
  const name = options.name?.trim() ?? '';
  if (name === '') return fail({ place: '--name', message: 'without --recipe the part needs a name' });
  const id = fileName([name], '', 'part');
  const device: RecipeFile['device'] = { id, name, maker: '', summary: '' };
  const table = (kind: 'pinout' | 'functions', grid: Grid) => ({
    grid,
    mapping: mapped(guessMapping(kind, grid, { unknown: 'ignore' }), grid, maps[kind]),
    source: { document: documentOf(grid) },
    answers: maps.answers?.[kind],
  });
  const draft = {
    pinout: table('pinout', pinout),
    functions: functions && table('functions', functions),
    device,
    rest: EMPTY_REST,
    corrections: [],
    padColumns: {},
  };
  const reading = readDraft(draft);
  const sides = [
    { grid: pinout, state: reading.pinout, mapping: draft.pinout.mapping },
    ...(functions && draft.functions
      ? [{ grid: functions, state: reading.functionTable, mapping: draft.functions.mapping }]
      : []),
  ];
  const errors = sides.flatMap(({ grid, state, mapping }) => [
    ...state.mapping.map((message) => ({ place: grid.name, message })),
    ...placed(grid, mapping, state.problems),
  ]);
  if (errors.length > 0 || !reading.description)
    return failWith([
      ...errors,
      ...(reading.description ? [] : [{ place: pinout.name, message: 'has no pads' }]),
    ]);
  return ok({
    description: reading.description,
    fates: { pinout: countFates(reading.pinout.fates), functions: countFates(reading.functionTable.fates) },
    warnings: sides.flatMap(({ grid, state, mapping }) => placed(grid, mapping, state.problems, 'warning')),
  });
}

function readMaps(file: string | undefined, terminal: Terminal): Result<TableMaps> {
  if (file === undefined) return ok({});
  const text = terminal.readText(file);
  if (!text.ok) return text;
  const json = readJson(file, text.value);
  if (!json.ok) return json;
  const isMap = (value: unknown): boolean =>
    value === undefined ||
    (typeof value === 'object' &&
      value !== null &&
      Object.values(value).every((one) => typeof one === 'string'));
  const maps = json.value.value as TableMaps;
  const isObject = (value: unknown): boolean => typeof value === 'object' && value !== null;
  const { pinout, functions, answers } = isObject(maps) ? maps : {};
  const good =
    isObject(maps) &&
    isMap(pinout) &&
    isMap(functions) &&
    (answers === undefined || (isObject(answers) && isMap(answers.pinout) && isMap(answers.functions)));
  if (!good)
    return fail({
      place: file,
      message:
        'must be {"pinout": {"heading": "role"}, "functions": {"heading": "role"}, "answers": {"pinout": {"key": "answer"}, "functions": {…}}}',
    });
  const roles = (given: Record<string, string> | undefined) =>
    given && Object.fromEntries(Object.entries(given).map(([heading, role]) => [heading, migrateRole(role)]));
  return ok({
    ...(pinout ? { pinout: roles(pinout) } : {}),
    ...(functions ? { functions: roles(functions) } : {}),
    ...(answers ? { answers } : {}),
  });
}

function readCorrections(file: string | undefined, terminal: Terminal): Result<Correction[]> {
  if (file === undefined) return ok([]);
  const text = terminal.readText(file);
  if (!text.ok) return text;
  const json = readJson(file, text.value);
  if (!json.ok) return json;
  return Array.isArray(json.value.value)
    ? ok(migrateCorrections(json.value.value) as Correction[])
    : fail({ place: file, message: 'must be a list of corrections' });
}

function factsOf(device: Device) {
  const { description } = device;
  return {
    part: { id: description.id, name: description.name, fingerprint: device.fingerprint },
    ...partFacts(device),
    settings: countSettings(device),
    unapplied: device.unapplied.map(({ correction, kind, why }) => ({
      id: correction.id,
      what: correction.what,
      kind,
      why,
    })),
  };
}

/** Settings of all pads that were checked to give bits of their own. */
function countSettings(device: Device): number {
  if (!hasRecipe(device.description.recipe)) return 0;
  let count = 0;
  for (const pad of device.description.pads) {
    if (pad.kind !== 'io' || pad.port === undefined) continue;
    for (const _one of settingsOf(device, pad)) count++;
  }
  return count;
}

function accountingText(rows: Rows): string[] {
  return Object.values(rows).map(
    ({ file, rows: count, fates }) =>
      `${file}: ${count} rows: ${Object.entries(fates)
        .map(([fate, number]) => `${number} ${fate}`)
        .join(', ')}`,
  );
}

function factsText(device: Device): string {
  const facts = factsOf(device);
  const lines = [
    `${facts.part.name} (${facts.part.id}), content ${facts.part.fingerprint}`,
    ...facts.packages.map((one) => `  ${one.id}: ${one.name}, ${one.pins} pins, ${one.io} I/O`),
    `  ${facts.pads} pads, ${facts.functions} functions`,
    facts.recipe
      ? `  ${facts.registers} registers; ${facts.settings} settings of pads, each with bits of its own`
      : '  no recipe yet: nets can be placed and checked, code cannot be made',
  ];
  if (facts.corrections > 0) lines.push(`  ${facts.corrections} corrections`);
  for (const one of facts.unapplied)
    lines.push(`  correction of ${one.what.join(' ')} not applied: ${one.why}`);
  return lines.join('\n');
}
