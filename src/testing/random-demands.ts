import type { Package } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { sidesOfShape } from '@/core/device/geometry';
import type { Demands, Net, NetSettings, Plan, Role } from '@/core/plan/model/types';
import { randomBoard } from './instances';
import { type Random, randomFrom } from './random';

/**
 * A random board on which nets want things: interrupts, analog inputs, pulls, drives, output types, voltages, currents, rates, levels
 * before initialisation, sides. No part may have all that it wants together; then an honest "cannot" is the answer.
 */
export function demandingBoard(device: Device, pkg: Package, count: number, seed: number): Plan {
  const random = randomFrom(seed * 31 + 7);
  const plan = randomBoard(device, pkg, count, seed);
  // From boards on which nearly every net wants something to those on which a few do.
  const rarely = 1 + random.int(12);
  return {
    ...plan,
    nets: plan.nets.map((net) => (random.int(rarely) === 0 ? demanding(device, pkg, net, random) : net)),
  };
}

const PLAIN_ROLES: readonly Role[] = [
  { kind: 'input' },
  { kind: 'output' },
  { kind: 'interrupt' },
  { kind: 'analog' },
  { kind: 'bidirectional' },
  { kind: 'open-drain' },
];

function demanding(device: Device, pkg: Package, net: Net, random: Random): Net {
  if (net.placement?.locked) return net;
  const plain = net.role.kind === 'input' || net.role.kind === 'output';
  const role = plain ? random.pick(PLAIN_ROLES) : net.role;
  const settings: NetSettings = {};
  const demands: Demands = {};
  const { pull = [], drive = [], outputType = [] } = device.description.recipe.settings;
  const puts = role.kind === 'output';
  switch (random.int(10)) {
    case 0:
      if (pull.length > 0 && role.kind !== 'analog') settings.pull = random.pick(pull);
      break;
    case 1:
      if (drive.length > 0 && puts) settings.drive = random.pick(drive);
      break;
    case 2:
      if (outputType.length > 0 && puts) settings.outputType = random.pick(outputType);
      break;
    case 3:
      demands.farVolts = random.pick([1.8, 3.3, 5]);
      break;
    case 4:
      demands.farPull = random.pick(['up', 'down', 'driven'] as const);
      break;
    case 5:
      if (puts) demands.milliamps = random.pick([1, 4, 8, 15]);
      break;
    case 6:
      demands.beforeInit = random.pick(['high', 'low'] as const);
      break;
    case 7:
      if (!plain) demands.rateHertz = random.pick([9600, 115_200, 1e6, 12e6, 40e6]);
      break;
    case 8:
      demands.side = random.pick(sidesOfShape(pkg));
  }
  return { ...net, role, settings, ...(Object.keys(demands).length > 0 ? { demands } : {}) };
}
