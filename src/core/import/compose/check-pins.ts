import type { Package } from '../../description/types';
import type { TableProblem } from '../tables/records';

/** Whether the pins of a package are those its shape has: none missing, none outside. */
export function checkPins(one: Package): TableProblem[] {
  const complain = (message: string): TableProblem => ({
    severity: 'error',
    message: `package ${one.id}: ${message}`,
  });
  const { shape } = one;
  const pins = Object.keys(one.pins);
  if (shape.kind === 'ball-grid') {
    return pins
      .filter((pin) => {
        const match = /^([A-Z]+)(\d+)$/.exec(pin);
        return !match || !shape.rows.includes(match[1] as string) || Number(match[2]) > shape.columns;
      })
      .map((pin) => complain(`ball ${pin} is not on the grid`));
  }
  const last = shape.pins + (shape.kind === 'quad' && shape.exposedPad ? 1 : 0);
  const problems: TableProblem[] = [];
  const missing: number[] = [];
  for (let pin = 1; pin <= shape.pins; pin++) {
    if (one.pins[String(pin)] === undefined) missing.push(pin);
  }
  if (missing.length > 0) {
    const shown = missing.slice(0, 8).join(', ');
    problems.push(
      complain(`no pad for pin ${shown}${missing.length > 8 ? ` and ${missing.length - 8} more` : ''}`),
    );
  }
  for (const pin of pins) {
    if (!/^\d+$/.test(pin) || Number(pin) < 1 || Number(pin) > last)
      problems.push(complain(`pin ${pin} is outside 1…${last}`));
  }
  return problems;
}
