import { isSet } from '../../../device/available';
import { exclusiveLine, interruptLine } from '../../../device/interrupt-lines';
import type { ResolvedNet } from '../../resolve/resolve';
import { padOfMove } from '../remedies';
import type { Remedy, Report, Rule, RuleContext } from '../types';
import { listNames } from '../words';

/** Placed nets that interrupt, on parts that say how lines are shared. */
const interrupting = ({ resolved }: Pick<RuleContext, 'resolved'>): ResolvedNet[] =>
  resolved.filter(({ net, pad, pins }) => net.role.kind === 'interrupt' && pad && pins.length > 0);

function groups(
  list: readonly ResolvedNet[],
  keyOf: (one: ResolvedNet) => string | undefined,
): ResolvedNet[][] {
  const found = new Map<string, ResolvedNet[]>();
  for (const one of list) {
    const key = keyOf(one);
    if (key !== undefined) found.set(key, [...(found.get(key) ?? []), one]);
  }
  return [...found.values()].filter((all) => all.length > 1);
}

const bare = (all: readonly ResolvedNet[]): Pick<Report, 'pads' | 'nets'> => ({
  pads: all.map((one) => one.pad?.id ?? ''),
  nets: all.map((one) => one.net.id),
});

export const lineShared: Rule = {
  meta: {
    id: 'interrupt-line-shared',
    severity: 'error',
    title: 'Two interrupts on one line',
    means: 'The pads share one interrupt line, and only one of them can be routed to it.',
    fix: 'Move one of the nets to a pad with another line.',
  },
  per: 'plan',
  check(context) {
    const { interrupts } = context.device.description;
    if (!interrupts) return [];
    const lineOf = (one: ResolvedNet) => exclusiveLine(context.device, one.pad);
    return groups(interrupting(context), lineOf).map((all) => ({
      message: `${listNames(all.map((one) => one.net.name))} are on ${listNames(all.map((one) => one.pad?.id ?? ''))}, which share interrupt line ${all[0] && lineOf(all[0])}: ${interrupts.why}.`,
      ...bare(all),
      remedies: (now) => (all.length === 2 ? all.flatMap((one) => elsewhere(now, one)) : []),
    }));
  },
};

/** Moves to pads whose line nobody uses. */
function elsewhere(context: RuleContext, one: ResolvedNet): Remedy[] {
  const { device } = context;
  const used = new Set(interrupting(context).map((other) => exclusiveLine(device, other.pad)));
  return context
    .movesFor(one.net, 40)
    .filter((move) => {
      const line = exclusiveLine(device, device.pads.get(padOfMove(move) ?? ''));
      return line === undefined || !used.has(line);
    })
    .slice(0, 2);
}

export const lineMissing: Rule = {
  meta: {
    id: 'interrupt-line-missing',
    severity: 'error',
    title: 'No interrupt line left',
    means: 'The part has fewer interrupt lines than the plan has interrupt inputs, or none for that bit.',
    fix: 'Read one of the inputs by polling, or move it to a bit that has a line.',
  },
  per: 'plan',
  check(context) {
    const { interrupts } = context.device.description;
    if (!interrupts) return [];
    const all = interrupting(context);
    if (interrupts.lines === 'bit' || interrupts.lines === 'listed') {
      return all
        .filter((one) => one.pad && interruptLine(context.device, one.pad) === 'none')
        .map((one) => ({
          message: `\`${one.net.name}\` is on \`${one.pad?.id}\`, ${interrupts.lines === 'bit' ? 'whose bit has' : 'which has'} no interrupt line: ${interrupts.why}.`,
          ...bare([one]),
          remedies: (now) =>
            elsewhere(now, one).filter((move) => {
              const pad = now.device.pads.get(padOfMove(move) ?? '');
              return pad !== undefined && interruptLine(now.device, pad) !== 'none';
            }),
        }));
    }
    const { count } = interrupts;
    if (count === undefined || interrupts.lines !== 'pad' || all.length <= count) return [];
    return [
      {
        message: `${all.length} nets want an interrupt line, and the part has ${count}: ${interrupts.why}.`,
        ...bare(all),
      },
    ];
  },
};

export const portShared: Rule = {
  meta: {
    id: 'interrupt-port-shared',
    severity: 'note',
    title: 'Several interrupts of one port',
    means: 'All pads of the port raise one interrupt; the firmware has to find out which it was.',
    fix: 'Nothing has to be done; spread them over ports if telling them apart takes too long.',
  },
  per: 'plan',
  check(context) {
    const { interrupts } = context.device.description;
    if (interrupts?.lines !== 'port') return [];
    return groups(interrupting(context), (one) => one.pad?.port ?? '').map((all) => ({
      message: `${listNames(all.map((one) => one.net.name))} share the interrupt of port ${all[0]?.pad?.port}: ${interrupts.why}.`,
      ...bare(all),
    }));
  },
};

export const noTrigger: Rule = {
  meta: {
    id: 'interrupt-no-trigger',
    severity: 'warning',
    title: 'Interrupt input without a trigger',
    means: 'The net interrupts the firmware, but its trigger is off: nothing will ever happen.',
    fix: 'Choose an edge or a level, or make it a plain input.',
  },
  per: 'placed net',
  check(one, part) {
    const { net, planned } = one;
    if (net.role.kind !== 'interrupt' || isSet(part.device, planned?.settings, 'trigger') !== 'none')
      return undefined;
    return {
      message: `\`${net.name}\` is an interrupt input, but its trigger is none.`,
      ...bare([one]),
      remedies: () => [
        {
          label: 'trigger as its asserted level says',
          edit: {
            kind: 'net.setting',
            id: net.id,
            key: 'trigger',
            from: net.settings.trigger ?? null,
            to: null,
          },
        },
        {
          label: `make ${net.name} a plain input`,
          edit: {
            kind: 'batch',
            label: `make ${net.name} an input`,
            edits: [{ kind: 'net.set', id: net.id, field: 'role', from: net.role, to: { kind: 'input' } }],
          },
        },
      ],
    };
  },
};
