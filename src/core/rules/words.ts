import { offerOf } from '../device/offers';
import { satisfying } from '../plan/resolve';
import type { Role } from '../plan/types';
import type { RuleContext } from './types';

/** "`A` and `B`", "`A`, `B` and `C`". */
export function listNames(names: readonly string[]): string {
  const quoted = names.map((name) => `\`${name}\``);
  if (quoted.length < 2) return quoted.join('');
  return `${quoted.slice(0, -1).join(', ')} and ${quoted.at(-1)}`;
}

/** "pad B7 (terminal 34)"; pads that are not bonded have no terminal. */
export function padWords(context: Pick<RuleContext, 'terminalsOf'>, pad: string): string {
  const terminals = context.terminalsOf(pad);
  if (terminals.length === 0) return `pad \`${pad}\``;
  return `pad \`${pad}\` (terminal${terminals.length > 1 ? 's' : ''} ${terminals.join(', ')})`;
}

/** What package notes take away of what a role needs, with the first note's own words; empty when nothing. */
export function takenAway({ device, pkg }: Pick<RuleContext, 'device' | 'pkg'>, role: Role): string {
  const bonded = device.terminalsOf.get(pkg.id);
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
