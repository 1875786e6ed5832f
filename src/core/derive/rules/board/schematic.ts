import type { Difference } from '../../board/cross-check';
import type { Report, Rule, RuleContext } from '../types';
import { padWords } from '../words';

/** Differences of a kind; a pin that is a short as well is reported as that. */
function differences(context: RuleContext, kind: Difference['kind']): Difference[] {
  const list = context.differences.filter((difference) => difference.kind === kind);
  if (list.length === 0) return list;
  const shorted = new Set(
    context.supplyFaults.flatMap((fault) => (fault.kind === 'supply-shorted' ? fault.pins : [])),
  );
  return list.filter(({ pin }) => !shorted.has(pin));
}

const reportOf = (difference: Difference, message: string): Report => ({
  message,
  pads: [difference.pad.id],
  nets: [difference.planned, difference.meant].flatMap((net) => (net ? [net.id] : [])),
  remedies: () => [...difference.followNetlist, ...difference.followPlan],
});

export const schematicDiffers: Rule = {
  meta: {
    id: 'schematic-differs',
    severity: 'error',
    title: 'Schematic and plan disagree',
    means:
      'The netlist of the schematic has another net on the pin than the plan: code and board will not fit.',
    fix: 'Let the plan follow the netlist, or mark what is to change in the schematic.',
  },
  per: 'plan',
  check: (context) =>
    differences(context, 'differs').map((difference) =>
      reportOf(
        difference,
        `The schematic says ${context.plan.schematic?.designator}-${difference.pin} is \`${difference.netlistNet}\`, the plan says \`${difference.pad.id}\` is \`${difference.planned?.name}\`.`,
      ),
    ),
};

export const schematicOnly: Rule = {
  meta: {
    id: 'schematic-only',
    severity: 'warning',
    title: 'Net in the schematic only',
    means: 'The netlist connects a pin that the plan leaves unused.',
    fix: 'Plan the net, or mark that the schematic is to change.',
  },
  per: 'plan',
  check: (context) =>
    differences(context, 'only-netlist').map((difference) =>
      reportOf(
        difference,
        `The schematic has \`${difference.netlistNet}\` on ${padWords(context, difference.pad.id)}; the plan has ${difference.meant ? (difference.meant.placement ? `it on \`${difference.meant.placement.pad}\`` : 'it without a pad') : 'no such net'}.`,
      ),
    ),
};

export const planOnly: Rule = {
  meta: {
    id: 'plan-only',
    severity: 'warning',
    title: 'Net in the plan only',
    means: 'The plan uses a pin that the schematic leaves unconnected.',
    fix: 'Draw it, or take the net off its pad.',
  },
  per: 'plan',
  check: (context) =>
    differences(context, 'only-plan').map((difference) =>
      reportOf(
        difference,
        `The plan has \`${difference.planned?.name}\` on ${padWords(context, difference.pad.id)}; the schematic connects nothing there.`,
      ),
    ),
};
