import { printCsv } from '../../base/text/csv';
import { markdownText } from '../../base/text/markdown';
import type { Derived } from '../../derive/derive';
import { settingKeysFor } from '../../derive/resolve/resolve';
import { POLICY_TITLES, policyOf } from '../../derive/resolve/unused';
import { labelsByPad } from '../../plan/labels';
import { roleText } from '../../plan/model/types';

/** The pin schedule: what every pin of the package is, in pin order. */
export interface ScheduleRow {
  pin: string;
  pad: string;
  net: string;
  circuit: string;
  what: string;
  settings: string;
  far: string;
  label: string;
  note: string;
}

const HEADINGS: Record<keyof ScheduleRow, string> = {
  pin: 'pin',
  pad: 'pad',
  net: 'net',
  circuit: 'circuit',
  what: 'is',
  settings: 'settings',
  far: 'far end',
  label: 'label',
  note: 'note',
};
export const SCHEDULE_COLUMNS = Object.keys(HEADINGS) as (keyof ScheduleRow)[];
export const headingOf = (column: keyof ScheduleRow): string => HEADINGS[column];

export function scheduleRows(derived: Derived): ScheduleRow[] {
  const { device, pkg, plan } = derived;
  const labels = labelsByPad(plan);
  return Object.entries(pkg.pins).map(([pin, padId]): ScheduleRow => {
    const pad = device.pads.get(padId);
    const all = derived.byPad.get(padId) ?? [];
    const [first] = all;
    const join = (of: (one: (typeof all)[number]) => string | undefined): string =>
      all.flatMap((one) => of(one) || []).join(', ');
    const values = first?.planned?.settings.values;
    return {
      pin,
      pad: padId,
      net: join((one) => one.net.name),
      circuit: join((one) => plan.circuits.find((circuit) => circuit.id === one.net.circuit)?.name),
      what: first
        ? (first.fn?.signal ?? roleText(first.net.role))
        : pad?.kind === 'io'
          ? `unused, ${POLICY_TITLES[policyOf(plan, padId)]}`
          : (pad?.kind ?? ''),
      settings:
        first && values
          ? settingKeysFor(device, first)
              .flatMap((key) => (values[key] === undefined ? [] : [`${key} ${values[key]}`]))
              .join(', ')
          : '',
      far: join((one) => [one.net.far?.part, one.net.far?.connector].filter(Boolean).join(' ')),
      label: labels.get(padId) ?? '',
      note: join((one) => one.net.note),
    };
  });
}

/** As a table for spreadsheets. A cell that a spreadsheet would run as a formula is written as text. */
export const scheduleCsv = (derived: Derived): string =>
  printCsv([
    SCHEDULE_COLUMNS.map(headingOf),
    ...scheduleRows(derived).map((row) => SCHEDULE_COLUMNS.map((column) => row[column])),
  ]);

/** As a page of Markdown. */
export function scheduleMarkdown(derived: Derived): string {
  const { plan, device, pkg, fingerprint } = derived;
  return `${[
    `# ${markdownText(plan.name)}${plan.revision ? `, revision ${markdownText(plan.revision)}` : ''}`,
    '',
    `${markdownText(device.description.name)} in ${markdownText(pkg.name)}; content ${fingerprint}.`,
    '',
    `| ${SCHEDULE_COLUMNS.map(headingOf).join(' | ')} |`,
    `|${SCHEDULE_COLUMNS.map(() => '---').join('|')}|`,
    ...scheduleRows(derived).map(
      (row) => `| ${SCHEDULE_COLUMNS.map((column) => markdownText(row[column])).join(' | ')} |`,
    ),
  ].join('\n')}\n`;
}
