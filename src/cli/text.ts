import { largest } from '@/core/base/lists';
import type {
  checkReport,
  generateReport,
  PlaceReport,
  registersReport,
} from '@/core/output/reports/reports';
import type { Updated } from '@/files/generated-folder';

/** The reports as lines for a terminal. */

const plural = (count: number, word: string): string => `${count} ${word}${count === 1 ? '' : 's'}`;

export function checkText(report: ReturnType<typeof checkReport>): string {
  const { plan, counts, findings } = report;
  const lines = [
    `${plan.name}, revision ${plan.revision}: ${plan.device} in ${plan.package}, content ${plan.fingerprint}`,
  ];
  for (const finding of findings) {
    lines.push(`${finding.waived ? 'waived' : finding.severity}: ${finding.rule}: ${finding.message}`);
    if (finding.waiver) {
      const { reason, author, date } = finding.waiver;
      lines.push(`    because ${reason} (${author}, ${date})`);
      continue;
    }
    for (const remedy of finding.remedies) lines.push(`    could ${remedy.label}`);
  }
  lines.push(
    `${plural(counts.error, 'error')}, ${plural(counts.warning, 'warning')}, ${plural(counts.note, 'note')}`,
  );
  return lines.join('\n');
}

export function placeText(report: PlaceReport): string {
  const { status, optimalFor, objective, bound, terms, moves, conflict, smallest, suggestions } = report;
  if (status === 'infeasible') {
    return [
      `cannot be placed: ${report.message ?? ''}`,
      smallest
        ? 'these cannot hold together, and nothing smaller contradicts itself:'
        : 'these cannot hold together, and none of them can be left out:',
      ...conflict.map(({ message }) => `    ${message}`),
      ...(suggestions.length > 0 ? ['each of these was tried and makes it possible:'] : []),
      ...suggestions.map(({ label }) => `    ${label}`),
    ].join('\n');
  }
  if (status === 'stopped') return 'no answer found within the limit';
  const proof =
    status === 'optimal'
      ? optimalFor === 'centres'
        ? 'no placement costs less that gathers each circuit around the same place'
        : 'optimal: no placement costs less'
      : `at most ${objective !== null && bound !== null ? objective - bound : 'unknown'} above the best there can be around the same places`;
  const parts = Object.entries(terms).map(([term, amount]) => `${term} ${amount}`);
  return [
    ...table(
      moves.map(({ net, from, to, signal }) => [
        net,
        from === null ? 'new' : `from ${from}`,
        to,
        signal ?? '',
      ]),
    ),
    moves.length === 0 ? 'nothing to move' : `${plural(moves.length, 'net')} placed or moved`,
    `objective ${objective} (${parts.join(', ')}); ${proof}`,
  ].join('\n');
}

export function generateText(report: ReturnType<typeof generateReport>, updated: Updated): string {
  const { files, proof, accessors } = report;
  const from = proof.from === 'reset' ? 'from reset' : 'from every state of the chip';
  return [
    ...files.map((file, index) => `${updated.files[index]}  ${file.bytes} bytes  sha256 ${file.sha256}`),
    ...updated.removed.map((path) => `${path} is not generated any more: removed`),
    ...updated.kept.map((path) => `${path} is not generated any more, but was changed by hand: kept`),
    `${proof.proven} of ${proof.pins} pins proven, ${from}`,
    ...(accessors.total > 0 ? [`${accessors.proven} of ${accessors.total} accessors proven`] : []),
    ...proof.failures.map(
      ({ pad, message, file, line }) =>
        `not proven: ${pad}: ${message}${line === null ? '' : ` (${file}, line ${line})`}`,
    ),
  ].join('\n');
}

export function registersText(report: ReturnType<typeof registersReport>): string {
  const rows = report.registers.map((register) => [
    register.name,
    register.address,
    String(register.bits),
    register.reset,
    register.planned,
    register.mask,
    [...new Set(register.fields.map((field) => field.pad))].join(' '),
  ]);
  const operations = report.operations.map((operation) => {
    if (operation.kind === 'wait')
      return [operation.stage, operation.kind, '', '', `${operation.cycles} cycles`];
    return [operation.stage, operation.kind, operation.register, operation.address, effect(operation)];
  });
  return [
    ...table([['register', 'address', 'bits', 'reset', 'planned', 'mask', 'pads'], ...rows]),
    '',
    ...table([['stage', 'step', 'register', 'address', 'what'], ...operations]),
  ].join('\n');
}

type RegisterStep = Exclude<ReturnType<typeof registersReport>['operations'][number], { kind: 'wait' }>;

function effect(step: RegisterStep): string {
  switch (step.kind) {
    case 'write':
      return step.value;
    case 'update':
      return `clear ${step.clear} set ${step.set}`;
    case 'flip':
      return `flip ${step.flip}`;
    case 'read':
      return step.holds === '' ? '' : `held as ${step.holds}`;
    case 'write held':
      return step.held;
    case 'await':
      return `${step.mask} = ${step.value} within ${step.cycles} cycles`;
  }
}

function table(rows: readonly string[][]): string[] {
  const widths = (rows[0] ?? []).map((_, column) => largest(rows.map((row) => row[column]?.length ?? 0)));
  return rows.map((row) =>
    row
      .map((cell, column) => cell.padEnd(widths[column] ?? 0))
      .join('  ')
      .trimEnd(),
  );
}
