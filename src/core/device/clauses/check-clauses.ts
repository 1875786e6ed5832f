import type { Problems } from '../../base/problems';
import { attempt } from '../../description/language/attempt';
import type { RegisterMap } from '../registers/types';
import { clausesOf } from './clauses';

/** Whether all that clauses of a description name holds bits; one message for each register of the recipe. */
export function checkClauses(map: RegisterMap, problems: Problems): void {
  const clauses = clausesOf(map);
  const faulty = new Set<string>();
  for (const register of map.all) {
    const place = `recipe, block ${register.block}, register ${register.id}`;
    if (!register.clauses || faulty.has(place)) continue;
    if (!attempt(() => clauses.of(register), place, problems)) faulty.add(place);
  }
}
