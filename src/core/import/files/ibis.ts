import { LIMITS, tooLarge } from '../../base/limits';
import { fail, ok, type Result } from '../../base/result';
import { linesOf, type Meter } from '../../base/text/scan';
import { type Grid, type GridRow, gridOf } from '../tables/grid';

/** A component of an IBIS file: one package of a part, with a row for each of its pins. */
export interface IbisComponent {
  name: string;
  package: string;
  grid: Grid;
}

/** Models that say what a pin is by the standard's own words. */
const KINDS: Readonly<Record<string, string>> = { POWER: 'supply', GND: 'ground', NC: 'no-connect' };

/**
 * The `[Pin]` lists of an IBIS file (ANSI/EIA-656) as pinout tables, one for each component: signal name, pin, and the kind where
 * the model is POWER, GND or NC. The names of other models are kept as the electrical class.
 */
export function readIbis(name: string, text: string, meter: Meter = { steps: 0 }): Result<IbisComponent[]> {
  if (text.length > LIMITS.tableCharacters)
    return fail({ place: name, message: `the file ${tooLarge('tableCharacters')}` });
  meter.steps += text.length;
  const found: { name: string; rows: GridRow[] }[] = [];
  let component = '';
  let comment = '|';
  let inPins = false;
  for (const { line, text: raw } of linesOf(text)) {
    const [body = ''] = raw.split(comment, 1);
    const keyword = /^\s*\[\s*([A-Za-z][\w /]*?)\s*\]\s*(.*)$/.exec(body);
    if (keyword) {
      const word = (keyword[1] ?? '').toLowerCase().replace(/[\s_]+/g, ' ');
      inPins = word === 'pin';
      if (word === 'comment char') comment = (keyword[2] ?? '').trim()[0] ?? comment;
      if (word === 'component') component = (keyword[2] ?? '').trim();
      if (inPins) found.push({ name: component || name, rows: [] });
      continue;
    }
    const [pin, signal, model] = body.trim().split(/\s+/);
    if (!inPins || !pin || !signal) continue;
    const kind = KINDS[model?.toUpperCase() ?? ''] ?? '';
    const known = found.at(-1);
    known?.rows.push({ line, cells: [signal, kind, pin, kind === '' ? (model ?? '') : ''] });
  }
  const taken = new Set<string>();
  const components: IbisComponent[] = [];
  for (const one of found.filter(({ rows }) => rows.length > 0)) {
    const stem = one.name.toLowerCase().replace(/[^a-z0-9]+/g, '') || 'package';
    let id = stem;
    for (let count = 2; taken.has(id); count++) id = `${stem}-${count}`;
    taken.add(id);
    const roles = ['pad', 'kind', `pin:${id}`, one.rows.some((row) => row.cells[3]) ? 'class' : 'ignore'];
    const head: GridRow = { line: 0, cells: ['signal name', 'kind', one.name, 'model'] };
    const title = found.length > 1 ? `${name}, ${one.name}` : name;
    const grid = gridOf(title, [head, ...one.rows], { known: { headerRow: 0, roles } });
    if (!grid.ok) return grid;
    components.push({ name: one.name, package: id, grid: grid.value });
  }
  const whole = joined(name, components);
  return components.length > 0
    ? ok(whole ? [whole, ...components] : components)
    : fail({ place: name, message: 'the IBIS file has no [Pin] list' });
}

/** Components that have most of their signals in common are packages of one part: one table with a column for each. */
function joined(name: string, components: readonly IbisComponent[]): IbisComponent | undefined {
  if (components.length < 2) return undefined;
  const rows = new Map<string, GridRow>();
  const common = new Map<string, number>();
  components.forEach(({ grid }, index) => {
    const seen = new Set<string>();
    for (const { line, cells } of grid.rows.slice(1)) {
      const [signal = '', kind = '', pin = '', model = ''] = cells;
      const known = rows.get(signal) ?? {
        line,
        cells: [signal, kind, model, ...components.map(() => '')],
      };
      rows.set(signal, known);
      known.cells[3 + index] = `${known.cells[3 + index]} ${pin}`.trim();
      if (!seen.has(signal)) common.set(signal, (common.get(signal) ?? 0) + 1);
      seen.add(signal);
    }
  });
  const shared = [...common.values()].filter((count) => count > 1).length;
  if (shared < common.size / 2) return undefined;
  const ids = components.map((one) => one.package);
  const head: GridRow = {
    line: 0,
    cells: ['signal name', 'kind', 'model', ...components.map((one) => one.name)],
  };
  const roles = ['pad', 'kind', 'class', ...ids.map((id) => `pin:${id}`)];
  // Lines of several lists may be equal; rows are told apart by theirs.
  const list = [...rows.values()].map((row, index) => ({ ...row, line: index + 1 }));
  const grid = gridOf(name, [head, ...list], { known: { headerRow: 0, roles } });
  return grid.ok ? { name: 'all packages', package: '', grid: grid.value } : undefined;
}
