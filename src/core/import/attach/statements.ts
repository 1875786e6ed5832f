import type { Unconfirmed } from '../../description/types';
import type { FieldRoleChoice, GateChoice, Proposal } from './choices';
import { placeTitle } from './places';
import { roleKind } from './roles';

/**
 * What choices say about the registers, a statement for each register and each value, with what it rests on. Those that somebody chose
 * by hand rest on him, and are left out.
 */
export function statementsOf(
  proposal: Pick<Proposal, 'places'>,
  choices: readonly FieldRoleChoice[],
  gates: readonly GateChoice[],
  byHand: ReadonlySet<string> = new Set(),
): Unconfirmed[] {
  const roles = choices.flatMap(({ role, place, values, reason, said }): Unconfirmed[] => {
    const found = proposal.places.find((one) => one.id === place);
    if (!found) return [];
    const { title, values: usual } = roleKind(role);
    const rests = reason === '' ? 'chosen by hand' : reason;
    return [
      ...(reason === '' ? [] : [{ id: role, says: `${title} is ${placeTitle(found)}`, rests }]),
      ...Object.entries(values).map(([value, number]) => ({
        id: `${role} ${value}`,
        says: `${title}: ${value} is ${number}`,
        rests: said
          ? 'the values that the file lists'
          : usual[value] === number
            ? 'what is usual'
            : 'the register description',
      })),
    ];
  });
  const ports = gates.flatMap((gate) =>
    Object.entries(gate.ports).map(([port, bit]) => ({
      id: `gate ${port}`,
      says: `the clock of port ${port} is opened by ${gate.opensAt} in bit ${bit} of ${gate.register}`,
      rests: 'names of registers and fields',
    })),
  );
  return [...roles, ...ports]
    .filter((one) => !byHand.has(one.id))
    .map((one) => ({ ...one, says: one.says.slice(0, 400), rests: one.rests.slice(0, 400) }));
}
