import { assume, createMachine, type Machine } from '@/core/derive/machine/state';
import { defaultOf, meantBy } from '@/core/description/meanings';
import type { PadSettings } from '@/core/description/settings';
import type { Pad, PadFunction } from '@/core/description/types';
import { settingsOf } from '@/core/device/decode';
import type { Device } from '@/core/device/device';
import { saidAlike } from '@/core/device/fields/excludes';
import { placeValue, slotMask } from '@/core/device/fields/fields';
import { wantedOf } from '@/core/device/planned-pad';
import { FAMILIES, family } from '@/testing/families';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { type PadState, padReader } from './pad-state';

/** A machine in which a pad has been given settings. */
function given(device: Device, pad: Pad, fn: PadFunction | undefined, settings: PadSettings): Machine {
  const machine = createMachine(device.registers);
  for (const { value, slots } of wantedOf(device, { pad, ...(fn ? { fn } : {}), settings }).ends)
    for (const slot of slots) assume(machine, slot.register, slotMask(slot), placeValue(slot, value));
  return machine;
}

/** What settings say of a pad, in the words of the bench. */
function wanted(device: Device, fn: PadFunction | undefined, { values }: PadSettings, state: PadState) {
  const { recipe } = device.description;
  const line = fn && device.lineOf(fn.signal)?.direction;
  const word = (key: 'pull' | 'level' | 'outputType' | 'trigger'): string | undefined =>
    recipe.settings[key] && meantBy(recipe, key, values[key] ?? defaultOf(recipe, key));
  const applies = (key: string): boolean => state.settings.some((one) => one.key === key);
  const drives =
    values.mode === 'output' || (values.mode === 'function' && (line === 'out' || line === 'both'));
  return {
    use: values.mode,
    output: !drives ? 'off' : values.mode === 'function' ? 'peripheral' : word('level'),
    pull: applies('pull') ? word('pull') : 'none',
    stage: word('outputType') ?? 'push-pull',
    trigger: applies('trigger') ? word('trigger') : 'none',
  };
}

describe.each(FAMILIES)('%s', (folder) => {
  const device = family(folder);
  const pads = device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined);
  test('what a pad is given is what the bench reads of it', () => {
    const random = randomFrom(folder.length);
    for (let run = 0; run < fuzzBudget(60); run++) {
      const pad = random.pick(pads);
      const { settings, fn } = random.pick([...settingsOf(device, pad)].slice(0, 400));
      // Without a latch in the settings the level is whatever the latch happens to hold.
      if (settings.values.mode === 'output' && settings.values.level === undefined) continue;
      const state = padReader(device, pad, fn).read(given(device, pad, fn, settings));
      const { use, output, pull, stage, trigger } = state;
      const other: PadSettings = {
        values: { ...settings.values, mode: state.use as never },
        mux: settings.mux,
      };
      // What no bit tells apart may be read as the other.
      if (use !== settings.values.mode && saidAlike(device.alike, settings, other) !== undefined) continue;
      expect({ pad: pad.id, settings, use, output, pull, stage, trigger }).toEqual({
        pad: pad.id,
        settings,
        ...wanted(device, fn, settings, state),
      });
    }
  });
  test('of bits that nobody knows nothing is said', () => {
    const machine = createMachine(device.registers, 'every');
    for (const pad of pads.slice(0, 12)) {
      const state = padReader(device, pad, undefined).read(machine);
      if (device.functionsByPad.get(pad.id)?.length) expect(state.use).toBe('unknown');
    }
  });
  test('equal bits give the very same object', () => {
    const reader = padReader(device, pads[0] as Pad, undefined);
    const machine = createMachine(device.registers);
    expect(reader.read(machine)).toBe(reader.read(createMachine(device.registers)));
    expect(reader.read(createMachine(device.registers, 'every'))).not.toBe(reader.read(machine));
  });
});
