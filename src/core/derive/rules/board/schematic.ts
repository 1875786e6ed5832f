import type { Difference } from '../../board/cross-check';
import type { Report, Rule, RuleContext } from '../types';
import { padWords } from '../words';

const differences = (context: RuleContext, kind: Difference['kind']): Difference[] =>
  context.differences.filter((one) => one.kind === kind);

const reportOf = (one: Difference, message: string): Report => ({
  message,
  pads: [one.pad.id],
  nets: [one.planned, one.meant].flatMap((net) => (net ? [net.id] : [])),
  remedies: () => [...one.followNetlist, ...one.followPlan],
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
    differences(context, 'other').map((one) =>
      reportOf(
        one,
        `The schematic says ${context.plan.schematic?.designator}-${one.pin} is \`${one.netlistNet}\`, the plan says \`${one.pad.id}\` is \`${one.planned?.name}\`.`,
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
    differences(context, 'only-netlist').map((one) =>
      reportOf(
        one,
        `The schematic has \`${one.netlistNet}\` on ${padWords(context, one.pad.id)}; the plan has ${one.meant ? (one.meant.placement ? `it on \`${one.meant.placement.pad}\`` : 'it without a pad') : 'no such net'}.`,
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
    differences(context, 'only-plan').map((one) =>
      reportOf(
        one,
        `The plan has \`${one.planned?.name}\` on ${padWords(context, one.pad.id)}; the schematic connects nothing there.`,
      ),
    ),
};
