import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { type Command, Option } from 'commander';
import { LIMITS } from '@/core/base/limits';
import { fail, ok, type Result } from '@/core/base/result';
import { comparePlans } from '@/core/compare/compare';
import { comparisonMarkdown, comparisonText } from '@/core/compare/print';
import type { Derived } from '@/core/derive/derive';
import { TARGETS } from '@/core/output/targets';
import { mergePlans } from '@/core/plan/changes/merge';
import { parsePlan } from '@/core/plan/file/plan-file';
import { printPlan } from '@/core/plan/file/print-plan';
import type { Plan } from '@/core/plan/model/types';
import { isAgreed, variantText } from '@/core/variants/print';
import { commonCircuits, variantReport } from '@/core/variants/variants';
import { writeWhole } from '@/files/write-files';
import type { Terminal } from './terminal';

interface Files {
  /** A plan file as text. */
  readText(file: string): Result<string>;
  /** Text of a plan file → everything that follows from it. */
  derive(file: string, text: string, devices: string): Result<Derived>;
}

/** A file, or one of a git revision: `main:boards/guard.plan.json`, as git itself names it. */
function textOf(name: string, { readText }: Files): Result<string> {
  if (existsSync(name) || !/^[^-:][^:]*:./.test(name)) return readText(name);
  try {
    return ok(
      execFileSync('git', ['show', '--end-of-options', name], {
        encoding: 'utf8',
        maxBuffer: LIMITS.registerFileCharacters,
        stdio: ['ignore', 'pipe', 'pipe'],
      }),
    );
  } catch (error) {
    const said = String((error as { stderr?: string }).stderr ?? '')
      .trim()
      .split('\n')[0];
    return fail({ place: name, message: `git does not give it: ${said || 'git cannot be run'}` });
  }
}

interface CompareOptions {
  format: 'text' | 'markdown' | 'json';
  devices: string;
  target: string;
}

interface VariantOptions {
  format: 'text' | 'json';
  devices: string;
  circuit?: string[];
}

/** `mavrek compare A B`, `mavrek variants PLANS` and `mavrek merge BASE OURS THEIRS`. */
export function addCompareCommands(
  program: Command,
  { print, complain, exit }: Terminal,
  files: Files,
  options: { devices(): Option },
): void {
  program
    .command('compare')
    .description(
      'what differs between two plans, in them and in all that follows: exit status 0 nothing, 1 something, 2 unusable input',
    )
    .argument('<from>', 'plan file, or one of a git revision: REVISION:PATH')
    .argument('<to>', 'the other one')
    .addOption(
      new Option('--format <format>', 'how to print').choices(['text', 'markdown', 'json']).default('text'),
    )
    .addOption(
      new Option('--target <target>', 'language of the code')
        .choices(TARGETS.map(({ id }) => id))
        .default('c'),
    )
    .addOption(options.devices())
    .action((from: string, to: string, given: CompareOptions) => {
      const [was, is] = [from, to].map((name) => {
        const text = textOf(name, files);
        return text.ok ? files.derive(name, text.value, given.devices) : text;
      }) as [Result<Derived>, Result<Derived>];
      if (!was.ok || !is.ok) {
        complain([was, is].flatMap((one) => (one.ok ? [] : one.problems)));
        exit(2);
        return;
      }
      const comparison = comparePlans(was.value, is.value, given.target);
      if (given.format === 'json') print(JSON.stringify(comparison, null, 2));
      else if (given.format === 'markdown') print(comparisonMarkdown(comparison));
      else print(comparisonText(comparison));
      exit(comparison.same ? 0 : 1);
    });

  program
    .command('variants')
    .description(
      'whether plans of several boards agree in the circuits that they share: exit status 0 they do, 1 they do not, 2 unusable input',
    )
    .argument('<plans...>', 'plan files of the variants, or of git revisions')
    .option('--circuit <name...>', 'circuits that are shared; those that all have, unless said otherwise')
    .addOption(new Option('--format <format>', 'how to print').choices(['text', 'json']).default('text'))
    .addOption(options.devices())
    .action((names: string[], given: VariantOptions) => {
      const results = names.map((name) => {
        const text = textOf(name, files);
        return text.ok ? files.derive(name, text.value, given.devices) : text;
      });
      const problems = results.flatMap((one) => (one.ok ? [] : one.problems));
      const deriveds = results.flatMap((one) => (one.ok ? [one.value] : []));
      const common = commonCircuits(deriveds.map(({ plan }) => plan));
      for (const circuit of given.circuit ?? [])
        if (!deriveds.some(({ plan }) => plan.circuits.some(({ name }) => name === circuit)))
          problems.push({ place: '--circuit', message: `no plan has a circuit "${circuit}"` });
      if (names.length < 2) problems.push({ place: 'plans', message: 'variants are at least two' });
      if (problems.length > 0) {
        complain(problems);
        exit(2);
        return;
      }
      const report = variantReport(deriveds, given.circuit ?? common);
      print(given.format === 'json' ? JSON.stringify(report, null, 2) : variantText(report));
      exit(isAgreed(report) ? 0 : 1);
    });

  program
    .command('merge')
    .description(
      'merges two plan files that come from one, by meaning, into the first of them; conflicts are named: exit status 0 merged, 1 conflicts, 2 unusable input (a merge driver for git)',
    )
    .argument('<base>', 'what both come from; an empty file where both are new')
    .argument('<ours>', 'our plan file, which gets the result')
    .argument('<theirs>', 'their plan file')
    .option('--out <file>', 'where the result goes instead')
    .action((base: string, ours: string, theirs: string, given: { out?: string }) => {
      const plan = (file: string): Result<Plan | undefined> => {
        const text = files.readText(file);
        if (!text.ok) return text;
        return file === base && text.value.trim() === '' ? ok(undefined) : parsePlan(file, text.value);
      };
      const [was, own, other] = [base, ours, theirs].map(plan) as [
        Result<Plan | undefined>,
        Result<Plan>,
        Result<Plan>,
      ];
      if (!was.ok || !own.ok || !other.ok) {
        complain([was, own, other].flatMap((one) => (one.ok ? [] : one.problems)));
        exit(2);
        return;
      }
      const { plan: merged, conflicts } = mergePlans(was.value, own.value, other.value);
      const text = printPlan(merged);
      const readable = parsePlan(given.out ?? ours, text);
      const problems = readable.ok ? writeWhole(given.out ?? ours, text) : readable.problems;
      if (problems.length > 0) {
        complain(problems);
        exit(2);
        return;
      }
      if (conflicts.length > 0) complain(conflicts.map(({ message }) => ({ place: 'conflict', message })));
      exit(conflicts.length > 0 ? 1 : 0);
    });
}
