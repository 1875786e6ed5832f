import { readFileSync } from 'node:fs';
import { Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import { fail, type Result } from '@/core/base/result';
import { TERM_KEYS, type Term, type Weights } from '@/core/derive/candidates/terms';
import { type Derived, derive } from '@/core/derive/derive';
import { generateFiles, whyNoCode } from '@/core/output/generate';
import { checkReport, generateReport, placeReport, registersReport } from '@/core/output/reports/reports';
import { sarifReport } from '@/core/output/reports/sarif';
import { TARGETS, targetById } from '@/core/output/targets';
import { placingEdit } from '@/core/place/model/moves';
import { placePlan } from '@/core/place/place';
import { applyEdit } from '@/core/plan/edits/edits';
import { parsePlan } from '@/core/plan/file/plan-file';
import { printPlan } from '@/core/plan/file/print-plan';
import { devicesFolder, findDevice } from '@/files/devices';
import { updateFolder } from '@/files/generated-folder';
import { writeWhole } from '@/files/write-files';
import { addCompareCommands } from './compare';
import { addDeviceCommands } from './device';
import { addReadBackCommand } from './read-back';
import { addReviewCommand } from './review';
import { readText, type Streams, type Terminal, terminalOn } from './terminal';
import { checkText, generateText, placeText, registersText } from './text';
import { addTrialCommand } from './trial';
import { watchFile } from './watch';

/** Exit codes: 0 clean, 1 findings of severity error (or a refusal), 2 unusable input. */
const CLEAN = 0;
const FINDINGS = 1;
const UNUSABLE = 2;

type Format = 'text' | 'json' | 'sarif';

/** Plan file → everything that follows from it, with the device looked up among the parts in `folder`. */
function derivePlanFile(file: string, folder: string): Result<Derived> {
  const text = readText(file);
  return text.ok ? derivePlanText(file, text.value, folder) : text;
}

function derivePlanText(file: string, text: string, folder: string): Result<Derived> {
  const plan = parsePlan(file, text);
  if (!plan.ok) return plan;
  const device = findDevice(folder, plan.value.device);
  if (!device.ok)
    return fail(...device.problems.map((one) => (one.place === folder ? { ...one, place: file } : one)));
  const derived = derive(device.value, plan.value);
  return derived.ok
    ? derived
    : fail(...derived.problems.map(({ place, message }) => ({ place: `${file}, ${place}`, message })));
}

interface CommonOptions {
  format: Format;
  devices: string;
}

/** Runs a command on a plan file; unusable input ends it with code 2. */
type OnPlan = (
  file: string,
  options: Pick<CommonOptions, 'devices'>,
  run: (derived: Derived) => number,
) => void;

const onPlanFor =
  ({ complain, exit }: Terminal): OnPlan =>
  (file, options, run) => {
    const derived = derivePlanFile(file, options.devices);
    if (derived.ok) exit(run(derived.value));
    else {
      complain(derived.problems);
      exit(UNUSABLE);
    }
  };

const exitFor = (derived: Derived): number => (derived.counts.error > 0 ? FINDINGS : CLEAN);

function generate(derived: Derived, options: CommonOptions & GenerateOptions, terminal: Terminal): number {
  const { complain, print, printJson } = terminal;
  const target = targetById(options.target);
  if (!target) throw new Error(`commander let target ${options.target} through`);
  const lack = whyNoCode(target, derived);
  if (lack !== undefined) {
    complain([{ place: target.id, message: `no code for this plan: ${lack}` }]);
    return FINDINGS;
  }
  if (derived.counts.error > 0 && !options.force) {
    const errors = derived.findings.filter((finding) => finding.severity === 'error' && !finding.waived);
    complain(
      errors.map((finding) => ({ place: finding.rule, message: finding.message.replaceAll('`', '') })),
    );
    terminal.warn('nothing was written; resolve the errors, or use --force');
    return FINDINGS;
  }
  const files = generateFiles(target, derived);
  const updated = updateFolder(
    options.out,
    { target: target.id, content: derived.fingerprint, files },
    { overwrite: options.overwrite === true },
  );
  if (!updated.ok) {
    complain(updated.problems);
    return FINDINGS;
  }
  const report = generateReport(derived, files);
  if (options.format === 'json') printJson(report);
  else print(generateText(report, updated.value));
  return CLEAN;
}

interface GenerateOptions {
  target: string;
  out: string;
  force?: true;
  overwrite?: true;
}

const formatOption = () =>
  new Option('--format <format>', 'how to print').choices(['text', 'json']).default('text');
const devicesOption = () =>
  new Option('--devices <folder>', 'folder with the parts').default(devicesFolder());

/** What `generate` and `watch` are given. */
const generating = (command: Command): Command =>
  command
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .addOption(
      new Option('--target <target>', 'language').choices(TARGETS.map(({ id }) => id)).makeOptionMandatory(),
    )
    .requiredOption('--out <folder>', 'folder to write to; what is not generated any more is removed from it')
    .option('--force', 'generate although the plan has errors')
    .option('--overwrite', 'replace files that were changed by hand')
    .addOption(formatOption())
    .addOption(devicesOption());

interface PlaceCommandOptions extends CommonOptions {
  out?: string;
  keep?: true;
  weight: Partial<Weights>;
}

/** `near=4`: a term of the objective and its weight. */
function readWeight(text: string, before: Partial<Weights>): Partial<Weights> {
  const [term = '', amount = ''] = text.split('=');
  if (!TERM_KEYS.includes(term as Term) || !/^\d{1,5}$/.test(amount))
    throw new InvalidArgumentError(
      `It must be a term and a whole number, e.g. near=4; terms are ${TERM_KEYS.join(', ')}.`,
    );
  return { ...before, [term]: Number(amount) };
}

function place({ plan, device, pkg }: Derived, options: PlaceCommandOptions, terminal: Terminal): number {
  const { complain, print, printJson } = terminal;
  const placing = placePlan(device, pkg, plan, { weights: options.weight, keep: options.keep === true });
  const report = placeReport(plan, placing);
  const possible = placing.status === 'optimal' || placing.status === 'feasible';
  if (possible && options.out !== undefined) {
    const placed = applyEdit(plan, placingEdit(placing.moves, 'place'));
    const problems = placed.ok ? writeWhole(options.out, printPlan(placed.value)) : placed.problems;
    if (problems.length > 0) {
      complain(problems);
      return UNUSABLE;
    }
  }
  if (options.format === 'json') printJson(report);
  else print(placeText(report));
  return possible ? CLEAN : FINDINGS;
}

/** The command line as a program that writes to a terminal and ends with an exit status; parsed once. */
export function cliProgram(terminal: Terminal): Command {
  const { print, printJson } = terminal;
  const onPlan = onPlanFor(terminal);
  const program = new Command('mavrek')
    .description('Plans what every pin of a microcontroller does, and generates proven initialisation code.')
    .exitOverride()
    .configureHelp({ helpWidth: 100 });

  program
    .command('check')
    .description('checks a plan: exit status 0 clean, 1 with errors, 2 unusable input')
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .addOption(formatOption().choices(['text', 'json', 'sarif']))
    .addOption(devicesOption())
    .action((file: string, options: CommonOptions) =>
      onPlan(file, options, (derived) => {
        const report = checkReport(derived);
        if (options.format === 'sarif') printJson(sarifReport(derived, file, readFileSync(file, 'utf8')));
        else if (options.format === 'json') printJson(report);
        else print(checkText(report));
        return exitFor(derived);
      }),
    );

  generating(program.command('watch'))
    .description('generates, and again whenever the plan file changes, until it is stopped')
    .action((file: string, options: CommonOptions & GenerateOptions) =>
      watchFile(file, () => onPlan(file, options, (derived) => generate(derived, options, terminal))),
    );

  generating(program.command('generate'))
    .description('writes initialisation code; refuses (exit status 1) while the plan has errors')
    .action((file: string, options: CommonOptions & GenerateOptions) =>
      onPlan(file, options, (derived) => generate(derived, options, terminal)),
    );

  program
    .command('registers')
    .description('prints every touched register: address, reset, planned, and the operations that lead there')
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .addOption(formatOption())
    .addOption(devicesOption())
    .action((file: string, options: CommonOptions) =>
      onPlan(file, options, (derived) => {
        const report = registersReport(derived);
        if (options.format === 'json') printJson(report);
        else print(registersText(report));
        return CLEAN;
      }),
    );

  program
    .command('place')
    .description('places what is not placed, or explains why it cannot (exit status 1)')
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .option('--out <file>', 'write the placed plan there; without it the plan is only reported on')
    .option('--keep', 'leave every net that has a pad where it is, locked or not')
    .option(
      '--weight <term=number>',
      'how much a term of the objective counts; may be repeated',
      readWeight,
      {},
    )
    .addOption(formatOption())
    .addOption(devicesOption())
    .action((file: string, options: PlaceCommandOptions) =>
      onPlan(file, options, (derived) => place(derived, options, terminal)),
    );

  addReadBackCommand(program, terminal, onPlan, { format: formatOption, devices: devicesOption });
  addReviewCommand(program, terminal, onPlan, { format: formatOption, devices: devicesOption });
  addTrialCommand(program, terminal, onPlan, { devices: devicesOption });
  addCompareCommands(program, terminal, { readText, derive: derivePlanText }, { devices: devicesOption });
  addDeviceCommands(program, terminal);
  program
    .command('language-server')
    .description(
      'serves texts of parts and plan files to an editor over stdin and stdout (Language Server Protocol)',
    )
    .option('--stdio', 'how editors say that they speak over stdin and stdout; it always does')
    .addOption(devicesOption())
    .action(async ({ devices }: { devices: string }) => {
      // Loaded where it is used: nothing else needs the protocol.
      const { createConnection } = await import('vscode-languageserver/node');
      const { serveLanguage } = await import('./language-server');
      serveLanguage(createConnection(process.stdin, process.stdout), { derive: derivePlanText, devices });
    });
  return program;
}

/** Runs a command; the exit status comes through the terminal. `args` are what stands after the program's name. */
export async function runCli(args: readonly string[], streams: Streams): Promise<void> {
  const terminal = terminalOn(streams);
  const program = cliProgram(terminal);
  const configured = [program, ...commandsIn(program)];
  for (const command of configured)
    command.exitOverride().configureOutput({ writeOut: streams.out, writeErr: streams.err });
  try {
    await program.parseAsync(args, { from: 'user' });
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    terminal.exit(error.exitCode === 0 ? CLEAN : UNUSABLE);
  }
}

const commandsIn = (command: Command): Command[] =>
  command.commands.flatMap((each) => [each as Command, ...commandsIn(each as Command)]);
