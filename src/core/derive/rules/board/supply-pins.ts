import type { SupplyFaultKind } from '../../board/supply-pins';
import type { Rule, RuleContext } from '../types';

/** Reports what the comparison of supply pins with the netlist has of one kind. */
const faultRule = (meta: Rule['meta'] & { id: SupplyFaultKind }): Rule => ({
  meta,
  per: 'plan',
  check: (context: RuleContext) =>
    context.supplyFaults
      .filter(({ kind }) => kind === meta.id)
      .map(({ message, pads, pins, nets, remedies }) => ({
        message,
        pads,
        nets,
        about: pins[0] ?? '',
        remedies: () => remedies,
      })),
});

export const supplyShorted = faultRule({
  id: 'supply-shorted',
  severity: 'error',
  title: 'Short in the schematic',
  means:
    'A net of the schematic joins a supply with a ground, with a supply of another voltage, or with a pad that drives against it.',
  fix: 'Correct the schematic; for a pad that drives, make it an input or take it off the supply.',
});

export const supplyOpen = faultRule({
  id: 'supply-open',
  severity: 'error',
  title: 'Supply pin open in the schematic',
  means:
    'A supply or ground pin is on no net, or on a net where nothing else is: the part is not supplied as it must be.',
  fix: 'Connect the pin in the schematic.',
});

export const supplyWrong = faultRule({
  id: 'supply-wrong',
  severity: 'error',
  title: 'Supply pin on a wrong net',
  means: 'A supply or ground pin is on a net whose name says ground, other volts or a signal of the plan.',
  fix: 'Connect the pin to its supply in the schematic; where only the name misleads, waive the finding.',
});

export const supplySplit = faultRule({
  id: 'supply-split',
  severity: 'warning',
  title: 'Pins of one supply on several nets',
  means:
    'Pins that are one inside the part are on different nets of the schematic: the part joins these nets.',
  fix: 'Connect all pins of the supply to one net.',
});

export const notLeftOpen = faultRule({
  id: 'not-left-open',
  severity: 'error',
  title: 'Pin must be left open',
  means: 'The schematic connects a pin that the data sheet says to leave open.',
  fix: 'Take the pin off its net in the schematic.',
});
