import { classOf, levelBefore } from '../../electrical/limits';
import { setDemands } from '../../plan/make-edits';
import { padOfMove } from '../remedies';
import type { Report, Rule } from '../types';
import { padWords } from '../words';

export const assertedEarly: Rule = {
  meta: {
    id: 'asserted-early',
    severity: 'warning',
    title: 'Asserted before initialisation',
    means:
      'A load hangs on the output, and the pad’s own pull at reset asserts it until the code runs: a lamp flashes, a contactor pulls in.',
    fix: 'Put a resistor to the inactive level on the board, or move the net.',
  },
  check({ device, resolved, movesFor, ...context }) {
    return resolved.flatMap(({ net, pad, terminals, planned }): Report[] => {
      if (!pad || terminals.length === 0 || planned?.settings.values.use !== 'output') return [];
      const { demands, settings } = net;
      if ((demands?.load ?? demands?.milliamps) === undefined || demands?.before !== undefined) return [];
      if (settings.start === 'asserted') return [];
      const asserted = settings.active === 'low' ? 'low' : 'high';
      if (levelBefore(classOf(device, pad), demands) !== asserted) return [];
      const pull = asserted === 'high' ? 'down' : 'up';
      return [
        {
          message: `\`${net.name}\` on ${padWords(context, pad.id)} is ${asserted}, its asserted level, from power-up until the code runs.`,
          pads: [pad.id],
          nets: [net.id],
          remedies: [
            {
              label: `the board pulls it ${pull} with 4.7 kΩ`,
              edit: setDemands(net, { ...demands, farPull: pull, farPullOhms: 4700 }),
            },
            ...movesFor(net, 2).filter((move) => {
              const to = padOfMove(move);
              const other = to === undefined ? undefined : device.pads.get(to);
              return other !== undefined && levelBefore(classOf(device, other), demands) !== asserted;
            }),
          ],
        },
      ];
    });
  },
};
