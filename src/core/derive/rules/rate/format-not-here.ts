import type { KindFormats } from '../../../description/types';
import { splitSignal } from '../../../description/types';
import { hertzText } from '../../../device/offers';
import { setDemands } from '../../../plan/edits/make-edits';
import { formatOf, formatText, type LineFormat, SPEED_CLASSES } from '../../../plan/model/format';
import type { Rule } from '../types';

export const formatNotHere: Rule = {
  meta: {
    id: 'format-not-here',
    severity: 'error',
    title: 'Format that the peripheral has not',
    means:
      'The peripheral has not the frame, mode or speed class that is asked for, or the rate is above the class.',
    fix: 'Ask for one that it has, or move the net to another peripheral.',
  },
  per: 'placed net',
  check({ net, pad, fn }, part) {
    const text = net.demands?.format;
    const format = text === undefined ? undefined : formatOf(text);
    if (text === undefined || !format) return undefined;
    const why = fn
      ? lackOf(format, part.device.kindOf(fn.signal)?.formats, net.demands?.rateHertz)
      : 'it is no line of a peripheral';
    if (why === undefined) return undefined;
    const who = fn ? splitSignal(fn.signal)[0] : pad.id;
    const { format: _dropped, ...others } = net.demands ?? {};
    return {
      message: `\`${net.name}\` asks for ${formatText(text)} on ${who}, but ${why}.`,
      pads: [pad.id],
      nets: [net.id],
      remedies: () => [{ label: 'ask for no format', edit: setDemands(net, others) }],
    };
  },
};

/** What a peripheral has not of a format; undefined where it has all of it, or the description says nothing of it. */
function lackOf(
  format: LineFormat,
  formats: KindFormats | undefined,
  rate: number | undefined,
): string | undefined {
  if (format.kind === 'class' && rate !== undefined && rate > SPEED_CLASSES[format.speedClass])
    return `that class ends at ${hertzText(SPEED_CLASSES[format.speedClass])} and ${hertzText(rate)} are wanted`;
  if (!formats) return undefined;
  const has = <T>(list: readonly T[] | undefined, value: T, what: string): string | undefined => {
    if (!list) return `it has no ${what}`;
    return list.includes(value) ? undefined : `its ${what} are ${list.join(', ')}`;
  };
  switch (format.kind) {
    case 'frame':
      return (
        has(formats.dataBits, format.dataBits, 'data bits') ??
        has(formats.parity, format.parity, 'parities') ??
        has(formats.stopBits, format.stopBits, 'stop bits')
      );
    case 'mode':
      return (
        has(formats.modes, format.mode, 'modes') ?? has(formats.bitOrders, format.bitOrder, 'bit orders')
      );
    case 'class':
      return has(formats.speedClasses, format.speedClass, 'speed classes');
  }
}
