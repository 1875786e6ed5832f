import type { TableProblem } from '../tables/records';
import type { Package } from './types';

/** Whether the terminals of a package are those its shape has: none missing, none outside. */
export function checkTerminals(one: Package): TableProblem[] {
  const complain = (message: string): TableProblem => ({
    severity: 'error',
    message: `package ${one.id}: ${message}`,
  });
  const { shape } = one;
  const terminals = Object.keys(one.terminals);
  if (shape.kind === 'ball-grid') {
    return terminals
      .filter((terminal) => {
        const match = /^([A-Z]+)(\d+)$/.exec(terminal);
        return !match || !shape.rows.includes(match[1] as string) || Number(match[2]) > shape.columns;
      })
      .map((terminal) => complain(`ball ${terminal} is not on the grid`));
  }
  const last = shape.terminals + (shape.kind === 'quad' && shape.exposedPad ? 1 : 0);
  const problems: TableProblem[] = [];
  const missing: number[] = [];
  for (let terminal = 1; terminal <= shape.terminals; terminal++) {
    if (one.terminals[String(terminal)] === undefined) missing.push(terminal);
  }
  if (missing.length > 0) {
    const shown = missing.slice(0, 8).join(', ');
    problems.push(
      complain(`no pad for terminal ${shown}${missing.length > 8 ? ` and ${missing.length - 8} more` : ''}`),
    );
  }
  for (const terminal of terminals) {
    if (!/^\d+$/.test(terminal) || Number(terminal) < 1 || Number(terminal) > last)
      problems.push(complain(`terminal ${terminal} is outside 1…${last}`));
  }
  return problems;
}
