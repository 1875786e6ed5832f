import { readFileSync, statSync } from 'node:fs';
import { type Command, InvalidArgumentError, Option } from 'commander';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { fail, ok, type Result } from '@/core/base/result';
import type { Derived } from '@/core/derive/derive';
import { printPlan } from '@/core/plan/file/print-plan';
import { DUMP_FORMS, type Dump, type DumpForm, readDump, textOrBytes } from '@/core/read-back/dump';
import { parseValue } from '@/core/read-back/parse-value';
import { isOther, type PadReading, readBack } from '@/core/read-back/read-back';
import { joined } from '@/core/read-back/take-over';
import { writeWhole } from '@/files/write-files';
import { readIds } from './read-ids';
import type { Terminal } from './terminal';

interface Options {
  format: 'text' | 'json';
  devices: string;
  form: DumpForm;
  addresses: 'cpu' | 'document';
  at?: number;
  out?: string;
}

/** Pads that are not as planned end the command like findings do. */
const DIFFERS = 1;

/** `read-back PLAN DUMP`: what registers hold, beside the plan. */
export function addReadBackCommand(
  program: Command,
  line: Terminal,
  onPlan: (file: string, options: { devices: string }, run: (derived: Derived) => number) => void,
  options: { format: () => Option; devices: () => Option },
): void {
  program
    .command('read-back')
    .description(
      'shows a dump of registers as the plan that it would be; exit status 1 where it differs from the plan',
    )
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .argument('<dump>', 'names or addresses with values, a memory print, Intel HEX, S-records, or raw bytes')
    .addOption(new Option('--form <form>', 'how it is written').choices(DUMP_FORMS).default('auto'))
    .addOption(
      new Option('--addresses <whose>', 'whose addresses it has').choices(['cpu', 'document']).default('cpu'),
    )
    .option('--at <address>', 'where raw bytes begin', readAddress)
    .option('--out <file>', 'write the plan with all of it taken over there')
    .addOption(options.format())
    .addOption(options.devices())
    .action((file: string, dump: string, given: Options) =>
      onPlan(file, given, (derived) => run(derived, dump, given, line)),
    );
}

function readAddress(text: string): number {
  const value = parseValue(text, 32);
  if (value === undefined) throw new InvalidArgumentError('It must be an address, e.g. 0x40000000.');
  return value;
}

function run(derived: Derived, path: string, options: Options, { print, complain }: Terminal): number {
  const dump = readFileOf(derived, path, options);
  if (!dump.ok) {
    complain(dump.problems);
    return 2;
  }
  const { values, unread, form, strayBytes } = dump.value;
  const readings = readBack(derived, (register) => values.get(register), readIds(derived));
  const differing = readings.filter(isOther);
  if (options.out !== undefined) {
    const edits = differing.flatMap((one) => one.meanings.slice(0, 1).map((meaning) => meaning.edit));
    const taken = joined(derived.plan, 'as read back', edits);
    const problems = taken.ok ? writeWhole(options.out, printPlan(taken.value.plan)) : taken.problems;
    if (problems.length > 0) {
      complain(problems);
      return 2;
    }
  }
  if (options.format === 'json') {
    const report = {
      form,
      registers: Object.fromEntries([...values].map(([register, value]) => [register.name, value])),
      unread,
      strayBytes,
      pads: differing.map(toldOf),
      asPlanned: readings.filter((one) => one.state === 'same').map((one) => one.pad),
    };
    print(JSON.stringify(report, null, 2));
  } else print(text(dump.value, readings, differing));
  return differing.length > 0 ? DIFFERS : 0;
}

function readFileOf(derived: Derived, path: string, options: Options): Result<Dump> {
  let bytes: Buffer;
  try {
    if (statSync(path).size > LIMITS.dumpCharacters)
      return fail({ place: path, message: tooLarge('dumpCharacters') });
    bytes = readFileSync(path);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    return fail({
      place: path,
      message: code === 'ENOENT' ? 'there is no such file' : `cannot be read (${code})`,
    });
  }
  const input = options.form === 'binary' ? new Uint8Array(bytes) : textOrBytes(new Uint8Array(bytes));
  const read = readDump(derived.device, input, options);
  if (read.ok) return ok(read.value);
  return fail(...read.problems.map(({ place, message }) => ({ place: `${path}, ${place}`, message })));
}

const toldOf = ({ pad, pins, net, state, missing, meanings, equally }: PadReading) => ({
  pad,
  pins,
  net: net?.name ?? null,
  state,
  notRead: missing.map((one) => one.name),
  meanings: meanings.map(({ text: words, exact }) => ({ text: words, exact })),
  equally,
});

function text(dump: Dump, readings: readonly PadReading[], differing: readonly PadReading[]): string {
  const lines = differing.map(({ pad, net, state, meanings, missing }) => {
    const what =
      state === 'meaningless'
        ? 'these bits are no setting of the pad'
        : meanings.map((one) => `${one.text}${one.exact ? '' : ' (not exactly)'}`).join(', or ');
    const partly = missing.length > 0 ? ` [not read: ${missing.map((one) => one.name).join(', ')}]` : '';
    return `${pad} ${net?.name ?? '(no net)'}: ${what}${partly}`;
  });
  const same = readings.filter((one) => one.state === 'same').length;
  for (const { pad, net, equally } of readings)
    if (equally.length > 0)
      lines.push(
        `${pad} ${net?.name ?? '(no net)'}: as planned; the bits are as well ${equally.join(', or ')}`,
      );
  return [
    ...lines,
    ...dump.unread.map(({ place, message }) => `not understood: ${place}: ${message}`),
    `${dump.values.size} registers read; ${same} pads as planned, ${differing.length} not`,
  ].join('\n');
}
