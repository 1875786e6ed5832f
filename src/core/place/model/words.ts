import { CONSTRAINT_WORDS } from '../../derive/candidates/constraints';
import { currentText, demandedMilliamps, voltsText } from '../../derive/electrical/limits';
import { hertzText } from '../../device/offers';
import type { Constraint, Net } from '../../plan/model/types';

/** What a net demands of its pad: the key of each demand, and its words. */
export function demandWords(net: Net): [string, string][] {
  const { demands } = net;
  if (!demands) return [];
  const found: [string, string][] = [];
  const name = `\`${net.name}\``;
  const milliamps = demandedMilliamps(demands);
  if (demands.rateHertz !== undefined)
    found.push(['rateHertz', `${name} wants ${hertzText(demands.rateHertz)}`]);
  if (milliamps !== undefined) found.push(['milliamps', `${name} wants ${currentText(milliamps)}`]);
  if (demands.farVolts !== undefined) found.push(['farVolts', `${name} sees ${voltsText(demands.farVolts)}`]);
  if (demands.beforeInit !== undefined)
    found.push(['beforeInit', `${name} must be ${demands.beforeInit} before initialisation`]);
  if (demands.side !== undefined) found.push(['side', `${name} shall be on the ${demands.side} side`]);
  if (demands.notPads && demands.notPads.length > 0)
    found.push([
      'notPads',
      `${name} must not be on ${demands.notPads.map((pad) => `\`${pad}\``).join(', ')}`,
    ]);
  return found;
}

export function constraintWords(constraint: Constraint, nets: readonly Net[]): string {
  const names = nets.length > 4 ? [...nets.slice(0, 3), nets.at(-1)] : nets;
  const list = names.map((net) => `\`${net?.name}\``).join(', ');
  return `${list}${nets.length > 4 ? ` (${nets.length} nets)` : ''} shall be ${CONSTRAINT_WORDS[constraint.kind]}`;
}
