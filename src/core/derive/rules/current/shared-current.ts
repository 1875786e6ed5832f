import { currentText } from '../../electrical/limits';
import type { Budget } from '../../resolve/budget';
import { padOfMove } from '../remedies';
import type { Remedy, Report, Rule, RuleContext } from '../types';
import { listNames } from '../words';

const overOf = (context: RuleContext, kind: Budget['kind'], over: (part: number) => boolean): Budget[] =>
  context.budgets.filter(
    (one) => one.kind === kind && one.limit !== undefined && over(one.milliamps / one.limit),
  );

/** The three greatest consumers and how many more. */
function consumers({ loads }: Budget): string {
  const sorted = [...loads].sort((a, b) => b.milliamps - a.milliamps);
  const list = listNames(sorted.slice(0, 3).map((one) => one.one.net.name));
  return sorted.length > 3 ? `${list} and ${sorted.length - 3} more` : list;
}

const reportOf = (budget: Budget, message: string): Report => ({
  message,
  pads: budget.loads.map((one) => one.pad.id),
  nets: budget.loads.map((one) => one.one.net.id),
  remedies: (now) => (budget.kind === 'supply' ? reliefs(budget, now) : []),
});

/** Moves of single consumers to pads of another supply, where that is enough. */
function reliefs(budget: Budget, context: RuleContext): Remedy[] {
  const excess = budget.milliamps - (budget.limit ?? 0);
  return budget.loads
    .filter((one) => one.milliamps >= excess && one.one.net.placement?.locked !== true)
    .flatMap(({ one, milliamps }) =>
      context
        .movesFor(one.net, 8)
        .filter((move) => {
          const to = padOfMove(move);
          const supply = context.device.pads.get(to ?? '')?.supply;
          if (supply === undefined || supply === budget.id) return false;
          const other = context.budgets.find(
            (b) => b.kind === 'supply' && b.id === supply && b.side === budget.side,
          );
          return other?.limit === undefined || other.milliamps + milliamps <= other.limit;
        })
        .slice(0, 1),
    )
    .slice(0, 3);
}

const WAY = { source: 'give', sink: 'take' } as const;

export const supplyCurrent: Rule = {
  meta: {
    id: 'supply-current',
    severity: 'error',
    title: 'More current than a supply allows',
    means:
      'All loads of the supply’s pads together, asserted at once, are above what the supply’s pads may give or take.',
    fix: 'Spread the loads over supplies, drive some with a transistor, or assert fewer at once and waive this with the reason.',
  },
  per: 'plan',
  check: (context) =>
    overOf(context, 'supply', (part) => part > 1).map((budget) =>
      reportOf(
        budget,
        `The pads of ${budget.id} ${WAY[budget.side]} ${currentText(budget.milliamps)} in the worst case, and ${currentText(budget.limit ?? 0)} are allowed: ${consumers(budget)}.`,
      ),
    ),
};

export const packageCurrent: Rule = {
  meta: {
    id: 'package-current',
    severity: 'error',
    title: 'More current than the package allows',
    means: 'All loads together, asserted at once, are above what the package may carry.',
    fix: 'Drive some loads with a transistor, or assert fewer at once and waive this with the reason.',
  },
  per: 'plan',
  check: (context) =>
    overOf(context, 'package', (part) => part > 1).map((budget) =>
      reportOf(
        budget,
        `All pads together ${WAY[budget.side]} ${currentText(budget.milliamps)} in the worst case, and ${context.pkg.name} allows ${currentText(budget.limit ?? 0)}: ${consumers(budget)}.`,
      ),
    ),
};

export const littleHeadroom: Rule = {
  meta: {
    id: 'little-headroom',
    severity: 'note',
    title: 'Supply nearly at its limit',
    means: 'In the worst case more than four fifths of what the supply’s pads may give or take is used.',
    fix: 'Nothing has to be done; keep it in mind before adding loads.',
  },
  per: 'plan',
  check: (context) =>
    overOf(context, 'supply', (part) => part > 0.8 && part <= 1).map((budget) => ({
      ...reportOf(
        budget,
        `The pads of ${budget.id} ${WAY[budget.side]} ${currentText(budget.milliamps)} of ${currentText(budget.limit ?? 0)} in the worst case: ${consumers(budget)}.`,
      ),
      remedies: () => [],
    })),
};
