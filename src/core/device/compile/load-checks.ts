import { LIMITS, limitText } from '../../base/limits';
import { collectProblems, type Problem, type Problems } from '../../base/problems';
import { attempt } from '../../description/language/attempt';
import { ExpressionError } from '../../description/language/expression';
import { hasRecipe } from '../../description/recipe';
import type { PadSettings } from '../../description/settings';
import { sameSettings } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { decodePad, settingsOf } from '../decode';
import type { Device } from '../device';
import { dependsOnPad, encodeSettings } from '../fields/encode';
import { placeValue, type Slot, slotMask } from '../fields/fields';
import { fullMask, heldBits, type Register } from '../registers/types';
import { checkStages } from './check-stages';

/**
 * What can be wrong with a recipe though each part of it reads well: fields that leave their register or overlap, tables
 * that miss a tuple or give a value too large for its field, settings that cannot be told apart in the registers.
 */
export function checkRecipe(device: Device): Problem[] {
  const problems = collectProblems();
  const pads = device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined);
  checkWork(device, pads, problems);
  if (problems.length === 0) checkPlaces(device, pads, problems);
  if (problems.length === 0) checkWays(device, pads, problems);
  if (problems.length === 0) checkStages(device, pads, problems);
  if (problems.length === 0 && hasRecipe(device.description.recipe)) checkTables(device, pads, problems);
  return problems.list();
}

/** How much work the checks will be, before it is done. */
function checkWork(device: Device, pads: Pad[], problems: Problems): void {
  const { settings } = device.description.recipe;
  let places = 0;
  for (const field of device.fields.values())
    places += field.needsFunction ? device.description.functions.length : pads.length;
  if (places > LIMITS.fieldPlaces) {
    const message = `its fields have ${places} places; at most ${limitText('fieldPlaces')} are taken`;
    problems.push({ place: 'recipe, fields', message });
  }
  const tuples = Object.values(settings).reduce(
    (product, values) => product * Math.max(1, values?.length ?? 1),
    1,
  );
  if (tuples > LIMITS.settingTuples) {
    const message = `they have ${tuples} combinations; at most ${limitText('settingTuples')} are taken`;
    problems.push({ place: 'recipe, settings', message });
  }
}

function checkPlaces(device: Device, pads: Pad[], problems: Problems): void {
  const owners = new Map<Register, { mask: number; owner: string }[]>();
  for (const pad of pads) {
    if (problems.full) return;
    for (const field of device.fields.values()) {
      const place = `recipe, field ${field.id}, pad ${pad.id}`;
      // A signal without a code is reached through analog mode; it writes no field of a function.
      const functions = field.needsFunction
        ? (device.functionsByPad.get(pad.id) ?? []).filter((fn) => fn.mux !== null)
        : [undefined];
      for (const fn of functions) {
        const slots = attempt(() => device.slotsOf(field.id, pad, fn), place, problems) ?? [];
        if (slots.length === 0 && !field.needsFunction) {
          problems.push({ place, message: 'its position leads to no register' });
        }
        for (const slot of slots) {
          const held = heldBits(slot.register);
          if (slot.low < 0 || slot.low + slot.bits > held) {
            problems.push({
              place,
              message: `bits ${slot.low}…${slot.low + slot.bits - 1} leave ${slot.register.name} (${held} bits${held < slot.register.bits ? ': its upper half says which are written' : ''})`,
            });
          } else if (!field.shared && !field.needsFunction) {
            claim(owners, slot, `${field.id} of ${pad.id}`, place, problems);
          }
        }
      }
    }
  }
}

/** Where a field is kept and by which registers it is written: they must be of the kinds that can. */
function checkWays(device: Device, pads: Pad[], problems: Problems): void {
  const { access, encode } = device.description.recipe;
  for (const [what, id] of Object.entries(access)) {
    if (id !== undefined && !device.fields.has(id))
      problems.push({ place: `recipe, access, ${what}`, message: `there is no field ${id}` });
  }
  const written = new Set([...encode.map((rule) => rule.field), ...(access.latch ? [access.latch] : [])]);
  for (const field of device.fields.values()) {
    const place = `recipe, field ${field.id}`;
    for (const pad of pads) {
      const functions = field.needsFunction ? (device.functionsByPad.get(pad.id) ?? []) : [undefined];
      const slots = functions.flatMap((fn) => device.slotsOf(field.id, pad, fn));
      const message = slots
        .map((slot) => wayProblem(slot, written.has(field.id)))
        .find((one) => one !== undefined);
      if (message === undefined) continue;
      problems.push({ place, message });
      break;
    }
  }
}

/** What is wrong with how a slot is reached; undefined when nothing is. */
function wayProblem(slot: Slot, written: boolean): string | undefined {
  const { register, through, setBy, clearedBy, toggledBy } = slot;
  if (!register.storage)
    return `${register.name} holds no bits of its own (${register.access.kind}); name the register that it acts on`;
  if (!written) return undefined;
  const target = through ?? register;
  const { kind } = target.access;
  if (kind !== 'read-write' && kind !== 'write' && kind !== 'masked') {
    const why = kind === 'read' || kind === 'internal' ? 'cannot be written' : `is ${kind}`;
    return `${target.name} ${why}; "through" names the register that the field is written in`;
  }
  const ways = [
    ['set by', setBy, ['set', 'set-clear']],
    ['cleared by', clearedBy, ['clear', 'set-clear']],
    ['toggled by', toggledBy, ['toggle']],
  ] as const;
  for (const [name, way, kinds] of ways) {
    if (!way) continue;
    if (!kinds.some((one) => one === way.access.kind) || way.target !== target)
      return `"${name}" names ${way.name}, which does not do that to ${target.name}`;
  }
  return undefined;
}

function claim(
  owners: Map<Register, { mask: number; owner: string }[]>,
  slot: Slot,
  owner: string,
  place: string,
  problems: Problems,
): void {
  const mask = slotMask(slot);
  const claims = owners.get(slot.register) ?? [];
  const clash = claims.find((other) => (other.mask & mask) !== 0);
  if (clash) problems.push({ place, message: `overlaps field ${clash.owner} in ${slot.register.name}` });
  else claims.push({ mask, owner });
  owners.set(slot.register, claims);
}

function checkTables(device: Device, pads: Pad[], problems: Problems): void {
  const perPad = device.rules.some(dependsOnPad);
  const seen = new Set<string>();
  for (const pad of pads) {
    if (problems.full) return;
    const before = problems.length;
    const fresh: { settings: PadSettings; fn?: PadFunction }[] = [];
    for (const { settings, fn } of settingsOf(device, pad)) {
      // Tables see no more of a pad than its class and mux code (or else all of it), so one speaks for all alike.
      const signature = `${perPad ? pad.id : pad.class} ${fn?.mux} ${device.tellsSignals ? fn?.signal : ''} ${fn && device.lineOf(fn.signal)?.direction} ${Object.values(settings.values).join(' ')}`;
      if (seen.has(signature)) continue;
      seen.add(signature);
      fresh.push({ settings, fn });
      try {
        const encoded = encodeSettings(settings, pad, fn, device);
        for (const { field: id, value } of encoded) {
          const field = device.fields.get(id);
          if (field && (value < 0 || value > fullMask(field.width))) {
            problems.push({
              place: `recipe, field ${id}, pad ${pad.id}`,
              message: `${value} does not fit its ${field.width} bits${fn ? ` (${fn.signal})` : ''}`,
            });
          }
        }
      } catch (error) {
        if (!(error instanceof ExpressionError)) throw error;
        problems.push({ place: `recipe, encode, pad ${pad.id}`, message: error.message });
      }
      if (problems.length > before) break;
    }
    // An incomplete table cannot be read back at all.
    if (problems.length === 0) checkReadsBack(device, pad, fresh, problems);
  }
}

/** Encodes each setting into reset values and decodes it again: exactly that setting must come back. */
function checkReadsBack(
  device: Device,
  pad: Pad,
  cases: readonly { settings: PadSettings; fn?: PadFunction }[],
  problems: Problems,
): void {
  for (const { settings, fn } of cases) {
    const written = new Map<Register, number>();
    const contents = (register: Register): number => written.get(register) ?? register.reset;
    for (const { field, value } of encodeSettings(settings, pad, fn, device)) {
      for (const slot of device.slotsOf(field, pad, fn)) {
        const kept = (contents(slot.register) & ~slotMask(slot)) >>> 0;
        written.set(slot.register, (kept | placeValue(slot, value)) >>> 0);
      }
    }
    const found = decodePad(device, pad, contents);
    const other = found.find((one) => !sameSettings(one, settings));
    const words = ({ values, mux, signal }: PadSettings) =>
      [...Object.values(values), ...(mux === null ? [] : [`code ${mux}`]), signal ?? '']
        .filter(Boolean)
        .join(' ');
    if (other || found.length === 0) {
      problems.push({
        place: `recipe, encode, pad ${pad.id}`,
        message: other
          ? `"${words(settings)}" and "${words(other)}" give the same bits`
          : `"${words(settings)}" is not found in the bits it gives`,
      });
      return;
    }
  }
}
