import type { PadSettings } from '../settings';
import { decodePad, sameSettings } from './decode';
import type { Device } from './device';
import type { Lowered, PlannedPad } from './lower';
import { contentsOf, createMachine, type Machine, readRegister, tick, writeRegister } from './machine';
import type { Operation } from './operations';
import type { Register } from './registers';

/** A pad that does not end as planned, or goes through a state it must not. */
export interface ProofFailure {
  pad: string;
  kind: 'ends-wrong' | 'pulses';
  message: string;
}

export interface Proof {
  /** Pads planned. */
  pins: number;
  /** Pads that end as planned and take no wrong level on the way. */
  proven: number;
  failures: ProofFailure[];
  /** Register bits outside the plan that the operations change, or planned registers that end with another value. */
  strays: string[];
}

/**
 * Runs the operations from reset on the register machine, decodes what is then in the registers and compares it with the
 * plan; watches on the way that no planned output is driven to the level it does not start with.
 */
export function prove(device: Device, planned: readonly PlannedPad[], lowered: Lowered): Proof {
  const machine = createMachine(device.registers);
  const contents = (register: Register): number => contentsOf(machine, register);
  const failures = new Map<string, ProofFailure>();
  const watched = watchedOutputs(device, planned);

  for (const operation of lowered.operations) {
    const effect = perform(machine, operation);
    if (operation.kind !== 'write' && operation.kind !== 'update') continue;
    const changed = operation.register.target ?? operation.register;
    if (effect !== undefined) continue;
    for (const { one, registers } of watched) {
      if (!registers.has(changed) || failures.has(one.pad.id)) continue;
      const wrong = decodePad(device, one.pad, contents).find(
        (now) => now.values.use === 'output' && now.values.level !== one.settings.values.level,
      );
      if (wrong) {
        failures.set(one.pad.id, {
          pad: one.pad.id,
          kind: 'pulses',
          message: `${one.pad.id} is driven ${wrong.values.level} in stage ${operation.stage}, before it is set ${one.settings.values.level}`,
        });
      }
    }
  }
  for (const one of planned) {
    const found = decodePad(device, one.pad, contents);
    if (found.length === 1 && sameSettings(found[0] as PadSettings, one.settings)) continue;
    failures.set(one.pad.id, {
      pad: one.pad.id,
      kind: 'ends-wrong',
      message: `${one.pad.id} ends as ${settingWords(found[0])}, planned is ${settingWords(one.settings)}`,
    });
  }
  return {
    pins: planned.length,
    proven: planned.filter((one) => !failures.has(one.pad.id)).length,
    failures: [...failures.values()],
    strays: straysOf(device, lowered, machine),
  };
}

/** Outputs whose level out of reset matters, with the registers that decide whether and how they are driven. */
function watchedOutputs(device: Device, planned: readonly PlannedPad[]) {
  return planned
    .filter((one) => one.settings.values.use === 'output')
    .map((one) => ({
      one,
      registers: new Set(
        device.rules
          .filter((rule) => rule.from.includes('use') || rule.from.includes('level'))
          .flatMap((rule) => device.slotsOf(rule.field, one.pad, one.fn).map((slot) => slot.register)),
      ),
    }));
}

/** Does one operation. Returns a word when the hardware did not take it. */
export function perform(machine: Machine, operation: Operation): string | undefined {
  switch (operation.kind) {
    case 'wait':
      tick(machine, operation.cycles);
      return undefined;
    case 'await': {
      for (let spent = 0; spent <= operation.cycles; spent++) {
        const value = readRegister(machine, operation.register);
        if ((value & operation.mask) >>> 0 === operation.value) return undefined;
      }
      return 'not ready';
    }
    case 'write': {
      const effect = writeRegister(machine, operation.register, operation.value);
      return effect === 'done' ? undefined : effect;
    }
    case 'update': {
      const old = readRegister(machine, operation.register);
      const next = ((old & ~operation.clear) | operation.set) >>> 0;
      const effect = writeRegister(machine, operation.register, next);
      return effect === 'done' ? undefined : effect;
    }
  }
}

function straysOf(device: Device, lowered: Lowered, machine: Machine): string[] {
  const planned = new Map(lowered.image.map((entry) => [entry.register, entry.planned]));
  return device.registers.all
    .filter((register) => register.access.kind === 'read-write' && !register.follows)
    .filter((register) => contentsOf(machine, register) !== (planned.get(register) ?? register.reset))
    .map((register) => register.name);
}

function settingWords(settings: PadSettings | undefined): string {
  if (!settings) return 'something that means nothing';
  const words = Object.entries(settings.values).map(([key, value]) =>
    key === 'use' ? value : `${key} ${value}`,
  );
  if (settings.mux !== null) words.push(`mux code ${settings.mux}`);
  return words.join(', ');
}
