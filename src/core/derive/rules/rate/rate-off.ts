import { smallest } from '../../../base/lists';
import { hertzText } from '../../../device/offers';
import { setDemands } from '../../../plan/edits/make-edits';
import { wantedRate } from '../../../plan/model/format';
import { nearestRate, rateNotAbove } from '../../electrical/rates';
import type { Rule } from '../types';

/** Two asynchronous ends that are each off by this much still understand each other. */
const TOLERATED_PERCENT = 2;

export const rateOff: Rule = {
  meta: {
    id: 'rate-off',
    severity: 'warning',
    title: 'Rate cannot be met well',
    means: `The divider nearest to the wanted rate is more than ${TOLERATED_PERCENT} % off.`,
    fix: 'Want a rate the divider gives, change the clock, or check that the far end takes it.',
  },
  per: 'placed net',
  check({ net, pad, fn }, part) {
    const { device } = part;
    const wanted = wantedRate(net.demands);
    if (!fn || wanted === undefined) return undefined;
    const rate = nearestRate(device, fn.signal, wanted);
    if (!rate || Math.abs(rate.errorPercent) <= TOLERATED_PERCENT) return undefined;
    // Far above what the divider gives: rate-too-high says so.
    if (
      rate.errorPercent < 0 &&
      rate.hertz * 1.02 < wanted &&
      rate.divider <= leastDivider(device.kindOf(fn.signal)?.rate?.dividers)
    )
      return undefined;
    const slower = rate.errorPercent > 0 ? rateNotAbove(device, fn.signal, wanted) : undefined;
    const want = (hertz: number) => ({
      label: `want ${hertzText(hertz)}`,
      edit: setDemands(net, { ...net.demands, rateHertz: hertz }),
    });
    return {
      message: `\`${net.name}\` wants ${hertzText(wanted)}; the nearest that ${fn.signal} does is ${hertzText(rate.hertz)} (divider ${rate.divider}), ${Math.abs(rate.errorPercent).toFixed(1)} % ${rate.errorPercent > 0 ? 'fast' : 'slow'}.${slower ? ` The nearest that is not above it is ${hertzText(slower.hertz)} (divider ${slower.divider}).` : ''}`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [want(rate.hertz), ...(slower ? [want(slower.hertz)] : [])],
    };
  },
};

const leastDivider = (dividers: { from: number } | number[] | undefined): number =>
  dividers === undefined ? 0 : Array.isArray(dividers) ? smallest(dividers) : dividers.from;
