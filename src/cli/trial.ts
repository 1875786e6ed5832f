import { type Command, Option } from 'commander';
import { coverage, faultText } from '@/core/bench/faults/faults';
import type { Proposal } from '@/core/bench/faults/propose';
import { namesIn } from '@/core/bench/script/names';
import { withNames } from '@/core/bench/script/rename';
import { junitReport, trialReport, trialText } from '@/core/bench/trials/report';
import { runTrial } from '@/core/bench/trials/run-trial';
import type { Derived } from '@/core/derive/derive';
import type { Terminal } from './terminal';

interface TrialOptions {
  format: 'text' | 'json' | 'junit';
  devices: string;
  only?: string[];
  faults?: true;
}

type OnPlan = (file: string, options: { devices: string }, run: (derived: Derived) => number) => void;

/** `mavrek trial PLAN`: plays the plan's trials without a browser. */
export function addTrialCommand(
  program: Command,
  { print, complain }: Terminal,
  onPlan: OnPlan,
  options: { devices(): Option },
): void {
  program
    .command('trial')
    .description(
      'plays the trials of a plan on the bench: exit status 0 when all pass, 1 when one fails, 2 unusable input',
    )
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .option('--only <name...>', 'only the trials with these names')
    .option('--faults', 'which single faults, in the code or on the board, the trials notice')
    .addOption(
      new Option('--format <format>', 'how to print').choices(['text', 'json', 'junit']).default('text'),
    )
    .addOption(options.devices())
    .action((file: string, given: TrialOptions) =>
      onPlan(file, given, (derived) => {
        const all = derived.plan.trials ?? [];
        const unknown = given.only?.find((name) => !all.some((one) => one.name === name));
        if (unknown !== undefined) {
          const names = all.map((one) => `"${one.name}"`).join(', ');
          complain([
            { place: file, message: `there is no trial "${unknown}"; the plan has ${names || 'none'}` },
          ]);
          return 2;
        }
        const trials = all.filter((one) => given.only?.includes(one.name) ?? true);
        const results = trials.map((trial) => runTrial(derived, trial));
        const passed = results.every((one) => one.passed);
        if (given.faults) printFaults(derived, trials, given.format, print);
        else if (given.format === 'junit') print(junitReport(derived, results));
        else if (given.format === 'json') print(JSON.stringify(trialReport(derived, results), null, 2));
        else print(trialText(results));
        return passed ? 0 : 1;
      }),
    );
}

function printFaults(
  derived: Derived,
  trials: NonNullable<Derived['plan']['trials']>,
  format: TrialOptions['format'],
  print: (text: string) => void,
): void {
  const work = coverage(derived, trials);
  let step = work.next();
  while (!step.done) step = work.next();
  const { results, unusable } = step.value;
  const nameOf = (id: string): string => trials.find((one) => one.id === id)?.name ?? id;
  const seen = results.filter((one) => one.seenBy.length > 0);
  const unseen = results.filter((one) => one.seenBy.length === 0 && one.matters);
  const harmless = results.length - seen.length - unseen.length;
  const names = namesIn(derived);
  const linesText = ({ trial, lines }: Proposal): { in: string; lines: string[] } => ({
    in: trial === undefined ? 'as a trial of its own' : `at the end of ${nameOf(trial)}`,
    lines: lines.map((line) => withNames(line, names)),
  });
  if (format === 'json') {
    print(
      JSON.stringify(
        {
          counts: { faults: results.length, seen: seen.length, unseen: unseen.length, harmless },
          unusable: unusable.map(nameOf),
          faults: results.map(({ fault, seenBy, matters, proposal }) => ({
            ...fault,
            text: faultText(derived, fault),
            matters,
            ...(proposal ? { proposal: linesText(proposal) } : {}),
            seenBy: seenBy.map(({ trial, says }) => ({ trial: nameOf(trial), says })),
          })),
        },
        null,
        2,
      ),
    );
    return;
  }
  print(
    [
      `${seen.length} of ${results.length} single faults are noticed by a trial, ${unseen.length} are not; ${harmless} change nothing`,
      ...unusable.map((id) => `${nameOf(id)} fails without any fault, and can notice none`),
      ...unseen.flatMap(({ fault, proposal }) => [
        `not noticed: ${faultText(derived, fault)}`,
        ...(proposal ? [`  ${linesText(proposal).in}: ${linesText(proposal).lines.join('; ')}`] : []),
      ]),
    ].join('\n'),
  );
}
