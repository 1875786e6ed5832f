import { offerOf } from '../../device/offers';
import type { Role } from '../../plan/model/types';
import { satisfying } from '../resolve/resolve';
import type { RuleContext } from './types';

/** "`A` and `B`", "`A`, `B` and `C`". */
export function listNames(names: readonly string[]): string {
  const quoted = names.map((name) => `\`${name}\``);
  if (quoted.length < 2) return quoted.join('');
  return `${quoted.slice(0, -1).join(', ')} and ${quoted.at(-1)}`;
}

/** "pad B7 (pin 34)"; pads that are not bonded have no pin. */
export function padWords(context: Pick<RuleContext, 'pinsOf'>, pad: string): string {
  const pins = context.pinsOf(pad);
  if (pins.length === 0) return `pad \`${pad}\``;
  return `pad \`${pad}\` (pin${pins.length > 1 ? 's' : ''} ${pins.join(', ')})`;
}

/** What package notes take away of what a role needs, with the first note's own words; empty when nothing. */
export function takenAway({ device, pkg }: Pick<RuleContext, 'device' | 'pkg'>, role: Role): string {
  const bonded = device.pinsOf.get(pkg.id);
  const offer = offerOf(device, pkg);
  for (const fn of satisfying(device, role, device.description.functions)) {
    const note = bonded?.has(fn.pad) ? offer.removal(fn) : undefined;
    if (note)
      return ` \`${fn.signal}\` on \`${fn.pad}\` is taken away in ${pkg.name}: ${note.why}`.replace(
        /\.?$/,
        '.',
      );
  }
  return '';
}
