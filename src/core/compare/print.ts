import { markdownText } from '../base/text/markdown';
import type { Comparison } from './compare';
import type { FindingLine } from './findings';

/** A comparison for people to read: as plain text, or as Markdown for a review. */

/** A heading, a sentence, and lines. */
interface Section {
  title: string;
  says?: string;
  lines: string[];
  /** Lines stand as they are. */
  verbatim?: boolean;
}

const arrow = (from: string, to: string): string =>
  `${from === '' ? 'nothing' : from} → ${to === '' ? 'nothing' : to}`;
const of = (circuit: string): string => (circuit === '' ? '' : ` (${circuit})`);
const finding = ({ severity, rule, message, waived }: FindingLine): string =>
  `${waived ? 'waived ' : ''}${severity} ${rule}: ${message}`;

/** What to say of whether an application still compiles. */
export function compilesText({ compiles, handlers }: Comparison['application']): string {
  const more =
    handlers.length === 0
      ? ''
      : ` It is called by ${handlers.length} more handler${handlers.length === 1 ? '' : 's'}, which it should have.`;
  return `${compiles ? 'An application that uses all names of the first still compiles.' : 'An application that uses all names of the first does not compile any more.'}${more}`;
}

function sectionsOf(one: Comparison): Section[] {
  const { nets, others, findings, registers, application, code } = one;
  return [
    {
      title: 'Nets added',
      lines: nets.added.map(
        ({ name, circuit, role, at }) =>
          `${name}${of(circuit)}: ${role}${at === '' ? ', without a pad' : ` on ${at}`}`,
      ),
    },
    {
      title: 'Nets gone',
      lines: nets.gone.map(
        ({ name, circuit, role, at }) =>
          `${name}${of(circuit)}: ${role}${at === '' ? ', was without a pad' : `, was on ${at}`}`,
      ),
    },
    {
      title: 'Nets moved',
      lines: nets.moved.map(({ name, circuit, from, to }) => `${name}${of(circuit)}: ${arrow(from, to)}`),
    },
    {
      title: 'Nets changed',
      lines: nets.changed.map(
        ({ name, circuit, changes }) =>
          `${name}${of(circuit)}: ${changes.map(({ what, from, to }) => `${what} ${arrow(from, to)}`).join('; ')}`,
      ),
    },
    { title: 'Beside nets', lines: others.map(({ what, from, to }) => `${what}: ${arrow(from, to)}`) },
    { title: 'Findings that are new', lines: findings.fresh.map(finding) },
    { title: 'Findings that are cured', lines: findings.cured.map(finding) },
    {
      title: 'What the application sees',
      says: compilesText(application),
      lines: [
        ...application.gone.map(({ name, circuit }) => `gone: ${name}${of(circuit)}`),
        ...application.declared.map(
          ({ name, from, to }) => `${name} is declared otherwise: ${arrow(from, to)}`,
        ),
        ...application.values.map(({ name, from, to }) => `${name}: ${from} → ${to}`),
        ...application.levels.map(({ name, from, to }) => `${name} is active ${to}, was active ${from}`),
        ...application.handlers.map(({ name }) => `to be written: ${name}`),
        ...application.added.map(({ name }) => `new: ${name}`),
      ],
    },
    {
      title: 'Registers that end otherwise',
      ...(registers === null ? { says: 'The parts have other registers.' } : {}),
      lines: (registers ?? []).flatMap(({ name, from, to, bits }) => [
        `${name}: ${from} → ${to}`,
        ...bits.map(
          (bit) =>
            `  bit ${bit.bits}${bit.field === '' ? '' : `, ${bit.field}`}${bit.pad === '' ? '' : ` of ${bit.pad}`}${bit.nets.length > 0 ? ` (${bit.nets.join(', ')})` : ''}: ${arrow(bit.from === '' ? 'as it was' : bit.from, bit.to === '' ? 'as it was' : bit.to)}`,
        ),
      ]),
    },
    ...(code.why === undefined
      ? []
      : [{ title: 'Code', says: `No code is compared: ${code.why}.`, lines: [] }]),
    ...code.files.map(({ path, added, removed, lines }) => ({
      title: `Code, ${path}`,
      says: `${added} lines added, ${removed} removed`,
      lines,
      verbatim: true,
    })),
  ];
}

const headText = ({ from, to }: Comparison): string[] => {
  const line = (one: Comparison['from']): string =>
    `${one.name}, revision ${one.revision === '' ? '–' : one.revision}; ${one.part}, ${one.package}; content ${one.fingerprint}; ${one.findings.error} errors, ${one.findings.warning} warnings`;
  return [`from  ${line(from)}`, `to    ${line(to)}`];
};

const shown = (one: Comparison): Section[] =>
  sectionsOf(one).filter(({ lines, says }) => lines.length > 0 || says !== undefined);

export function comparisonText(one: Comparison): string {
  if (one.same) return [...headText(one), '', 'nothing differs'].join('\n');
  return [
    ...headText(one),
    ...shown(one).flatMap(({ title, says, lines }) => [
      '',
      title,
      ...(says === undefined ? [] : [`  ${says}`]),
      ...lines.map((line) => `  ${line}`),
    ]),
  ].join('\n');
}

export function comparisonMarkdown(one: Comparison): string {
  const { from, to } = one;
  const cells = (side: Comparison['from']): string =>
    [
      markdownText(side.name),
      markdownText(side.revision),
      markdownText(side.part),
      markdownText(side.package),
      side.fingerprint,
      `${side.findings.error} errors, ${side.findings.warning} warnings`,
    ].join(' | ');
  return [
    `# ${markdownText(from.name)} ${markdownText(from.revision)} → ${markdownText(to.name)} ${markdownText(to.revision)}`,
    '',
    '| | plan | revision | part | package | content | findings |',
    '|---|---|---|---|---|---|---|',
    `| from | ${cells(from)} |`,
    `| to | ${cells(to)} |`,
    ...(one.same ? ['', 'Nothing differs.'] : []),
    ...shown(one).flatMap(({ title, says, lines, verbatim }) => {
      const fence = '`'.repeat(Math.max(3, ...lines.map((line) => (/`+/.exec(line)?.[0].length ?? 0) + 1)));
      return [
        '',
        `## ${markdownText(title)}`,
        ...(says === undefined ? [] : ['', markdownText(says)]),
        ...(lines.length === 0 ? [] : ['']),
        ...(verbatim
          ? [`${fence}diff`, ...lines, fence]
          : lines.map((line) => `${line.startsWith('  ') ? '  ' : ''}- ${markdownText(line.trimStart())}`)),
      ];
    }),
    '',
  ].join('\n');
}
