import { setDemands } from '../../../plan/edits/make-edits';
import { classOf, levelBefore } from '../../electrical/limits';
import { padOfMove } from '../remedies';
import type { Rule } from '../types';
import { padWords } from '../words';

export const assertedEarly: Rule = {
  meta: {
    id: 'asserted-early',
    severity: 'warning',
    title: 'Asserted before initialisation',
    means:
      'A load hangs on the output, and the pad’s own pull at reset asserts it until the code runs: an LED flashes, a contactor pulls in.',
    fix: 'Put a resistor to the inactive level on the board, or move the net.',
  },
  per: 'placed net',
  check({ net, pad, planned }, part) {
    const { device } = part;
    if (planned?.settings.values.mode !== 'output') return undefined;
    const { demands, settings } = net;
    if ((demands?.load ?? demands?.milliamps) === undefined || demands?.beforeInit !== undefined)
      return undefined;
    if (settings.start === 'asserted') return undefined;
    const asserted = settings.active === 'low' ? 'low' : 'high';
    if (levelBefore(classOf(device, pad), demands) !== asserted) return undefined;
    const pull = asserted === 'high' ? 'down' : 'up';
    return {
      message: `\`${net.name}\` on ${padWords(part, pad.id)} is ${asserted}, its asserted level, from power-up until the code runs.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: (context) => [
        {
          label: `the board pulls it ${pull} with 4.7 kΩ`,
          edit: setDemands(net, { ...demands, farPull: pull, farPullOhms: 4700 }),
        },
        ...context.movesFor(net, 2).filter((move) => {
          const to = padOfMove(move);
          const other = to === undefined ? undefined : device.pads.get(to);
          return other !== undefined && levelBefore(classOf(device, other), demands) !== asserted;
        }),
      ],
    };
  },
};
