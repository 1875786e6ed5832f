import { namesIn } from '../../description/language/clause';
import type { Register, RegisterMap } from './types';

/** The register of levels at the pads that clauses of another one read: there a pad's level is at the pad's own bit. */
export function levelsBehind(map: RegisterMap, { clauses }: Register): Register | undefined {
  if (!clauses?.gives) return undefined;
  return [...namesIn(clauses.gives)]
    .map((name) => map.byName.get(name))
    .find((register) => register?.follows?.kind === 'pads');
}
