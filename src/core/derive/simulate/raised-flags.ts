import { defaultOf } from '../../description/meanings';
import type { Device } from '../../device/device';
import { encodeSettings } from '../../device/fields/encode';
import { placeValue, slotMask } from '../../device/fields/fields';
import type { PlannedPad } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import type { Machine } from '../machine/state';

/**
 * What the world does to flags: a pad's flag may be up from the start, and hardware may raise it when what it notices is changed. An interrupt
 * that is enabled then runs at once, for nothing. Watched for pads with an interrupt, on parts whose description names both the field that
 * enables it and the flag.
 */
export class RaisedFlags {
  private readonly watched: Watched[] = [];

  constructor(device: Device, planned: readonly PlannedPad[], machine: Machine) {
    const { enable, pending } = device.description.recipe.access;
    if (enable === undefined || pending === undefined) return;
    for (const one of planned) {
      const watched = watch(device, one, enable, pending);
      if (!watched) continue;
      // Down out of reset; from every state it may be up.
      watched.raisedBy = isKnown(machine, watched.flag, 0) ? undefined : 'the start';
      this.watched.push(watched);
    }
  }

  get isIdle(): boolean {
    return this.watched.length === 0;
  }

  /** Looks at what an operation wrote; what is wrong, by pad. */
  after(
    machine: Machine,
    touched: ReadonlyMap<number, number>,
    operation: string,
  ): { pad: string; message: string }[] {
    return this.watched.flatMap((one) => {
      const wrote = (places: readonly Place[]): boolean =>
        places.some(({ word, mask }) => ((touched.get(word) ?? 0) & mask) !== 0);
      if (wrote(one.senses)) one.raisedBy = operation;
      else if (wrote([one.flag]) && isKnown(machine, one.flag, 0)) one.raisedBy = undefined;
      const wasOn = one.isOn;
      one.isOn = one.enables.every((place) => isKnown(machine, place, place.value));
      if (wasOn || !one.isOn || one.raisedBy === undefined) return [];
      const since =
        one.raisedBy === 'the start'
          ? 'it may have been up from the start'
          : `${one.raisedBy} has changed what it notices`;
      return [
        {
          pad: one.pad,
          message: `after ${operation} the interrupt of ${one.pad} is enabled while its flag may be up: ${since}, and nothing has cleared it after that`,
        },
      ];
    });
  }
}

interface Place {
  word: number;
  mask: number;
  value: number;
}

interface Watched {
  pad: string;
  flag: Place;
  enables: Place[];
  senses: Place[];
  isOn: boolean;
  /** The operation since which the flag may be up. */
  raisedBy: string | undefined;
}

const placeIn = ({ storage }: Register, mask: number, value: number): Place[] =>
  storage ? [{ word: storage.word, mask: mask << storage.shift, value: value << storage.shift }] : [];

function watch(device: Device, one: PlannedPad, enable: string, pending: string): Watched | undefined {
  const none = defaultOf(device.description.recipe, 'trigger');
  const { trigger } = one.settings.values;
  if (none === undefined || trigger === undefined || trigger === none) return undefined;
  const places = (field: string, value: number): Place[] =>
    device
      .slotsOf(field, one.pad, one.fn)
      .flatMap((slot) => placeIn(slot.register, slotMask(slot), placeValue(slot, value)));
  const byTrigger = new Set(
    device.rules.filter(({ from }) => from.includes('trigger')).map(({ field }) => field),
  );
  const encoded = encodeSettings(one.settings, one.pad, one.fn, device).filter(({ field }) =>
    byTrigger.has(field),
  );
  const on = encoded.find(({ field }) => field === enable);
  const [flag] = places(pending, 0);
  if (!on || !flag) return undefined;
  return {
    pad: one.pad.id,
    flag,
    enables: places(enable, on.value),
    senses: encoded
      .filter(({ field }) => field !== enable)
      .flatMap(({ field, value }) => places(field, value)),
    isOn: false,
    raisedBy: undefined,
  };
}

const isKnown = ({ known, value }: Machine, { word, mask }: Place, wanted: number): boolean =>
  (mask & ~((known[word] ?? 0) & ~((value[word] ?? 0) ^ wanted))) === 0;
