import { namesIn } from '../../description/language/clause';
import type { Register, RegisterMap } from './types';

/** Whether a register shows the opposite of the levels at the pads. */
export const followsInverted = ({ follows }: Register): boolean =>
  follows?.kind === 'pads' && follows.inverted === true;

/** The register of levels at the pads that clauses of another one read: there a pad's level is at the pad's own bit. */
export function levelsBehind(map: RegisterMap, { clauses }: Register): Register | undefined {
  if (!clauses?.gives) return undefined;
  return [...namesIn(clauses.gives)]
    .map((name) => map.byName.get(name))
    .find((register) => register?.follows?.kind === 'pads');
}
