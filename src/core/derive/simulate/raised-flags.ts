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
    for (const plan of planned) {
      const watched = watch(device, plan, enable, pending);
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
    return this.watched.flatMap((pad) => {
      const wrote = (places: readonly Place[]): boolean =>
        places.some(({ word, mask }) => ((touched.get(word) ?? 0) & mask) !== 0);
      if (wrote(pad.senses)) pad.raisedBy = operation;
      else if (wrote([pad.flag]) && isKnown(machine, pad.flag, 0)) pad.raisedBy = undefined;
      const wasOn = pad.isOn;
      pad.isOn = pad.enables.every((place) => isKnown(machine, place, place.value));
      if (wasOn || !pad.isOn || pad.raisedBy === undefined) return [];
      const since =
        pad.raisedBy === 'the start'
          ? 'it may have been up from the start'
          : `${pad.raisedBy} has changed what it notices`;
      return [
        {
          pad: pad.pad,
          message: `after ${operation} the interrupt of ${pad.pad} is enabled while its flag may be up: ${since}, and nothing has cleared it after that`,
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

function watch(device: Device, plan: PlannedPad, enable: string, pending: string): Watched | undefined {
  const none = defaultOf(device.description.recipe, 'trigger');
  const { trigger } = plan.settings.values;
  if (none === undefined || trigger === undefined || trigger === none) return undefined;
  const places = (field: string, value: number): Place[] =>
    device
      .slotsOf(field, plan.pad, plan.fn)
      .flatMap((slot) => placeIn(slot.register, slotMask(slot), placeValue(slot, value)));
  const byTrigger = new Set(
    device.rules.filter(({ from }) => from.includes('trigger')).map(({ field }) => field),
  );
  const encoded = encodeSettings(plan.settings, plan.pad, plan.fn, device).filter(({ field }) =>
    byTrigger.has(field),
  );
  const on = encoded.find(({ field }) => field === enable);
  const [flag] = places(pending, 0);
  if (!on || !flag) return undefined;
  return {
    pad: plan.pad.id,
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
