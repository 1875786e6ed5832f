import type { Lowered } from '../../derive/lower/lower';
import type { Operation } from '../../derive/machine/operations';
import type { Device } from '../../device/device';
import { canRead, canWrite, type Register } from '../../device/registers/types';

/** What the code of a description does, as accesses to the registers that another description of the part has at the same addresses. */
export class NoSuchRegister extends Error {
  constructor(readonly register: Register) {
    super(`${register.name} at 0x${register.address.toString(16).toUpperCase()}, ${register.bits} bits`);
  }
}

const isOnBus = ({ access, pieces }: Register): boolean => access.kind !== 'internal' && pieces === undefined;

export interface AddressMap {
  find(register: Register, access: 'read' | 'write'): Register | undefined;
}

const maps = new WeakMap<Device, AddressMap>();

/** Registers of a device by address and width; where several stand there, one that takes the access. */
export function addressMap(device: Device): AddressMap {
  let known = maps.get(device);
  if (!known) {
    const byPlace = new Map<string, Register[]>();
    for (const register of device.registers.all) {
      if (!isOnBus(register)) continue;
      const place = `${register.address} ${register.bits}`;
      byPlace.set(place, [...(byPlace.get(place) ?? []), register]);
    }
    known = {
      find({ address, bits }, access) {
        const all = byPlace.get(`${address} ${bits}`) ?? [];
        return all.find(access === 'read' ? canRead : canWrite) ?? all[0];
      },
    };
    maps.set(device, known);
  }
  return known;
}

function operationOn(map: AddressMap, operation: Operation): Operation {
  if (operation.kind === 'wait') return operation;
  const counterpart = (register: Register, access: 'read' | 'write'): Register => {
    const same = map.find(register, access);
    if (!same) throw new NoSuchRegister(register);
    return same;
  };
  const isRead = operation.kind === 'read' || operation.kind === 'await';
  const register = counterpart(operation.register, isRead ? 'read' : 'write');
  if (operation.kind === 'flip' && operation.through) {
    const { set, clear } = operation.through;
    return {
      ...operation,
      register,
      through: { set: counterpart(set, 'write'), clear: counterpart(clear, 'write') },
    };
  }
  return { ...operation, register };
}

/** Operations of one description on the registers of another. Throws {@link NoSuchRegister}. */
export function loweredOn(device: Device, lowered: Lowered): Lowered {
  const map = addressMap(device);
  const mapped = <T extends { register: Register }>(items: readonly T[]): T[] =>
    items.flatMap((item) => {
      const register = map.find(item.register, 'write');
      return register ? [{ ...item, register }] : [];
    });
  return {
    ...lowered,
    operations: lowered.operations.map((operation) => operationOn(map, operation)),
    image: mapped(lowered.image),
    decided: mapped(lowered.decided),
    clashes: [],
  };
}
