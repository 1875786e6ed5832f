import { LIMITS, limitText } from '../../base/limits';
import { collectProblems, type Problem, type Problems } from '../../base/problems';
import { hexText } from '../../base/text/hex';
import { ExpressionError } from '../../description/language/expression';
import { hasRecipe } from '../../description/recipe';
import type { PadSettings } from '../../description/settings';
import { sameSettings } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { padSort, variantsOf } from '../available';
import { clausesOf } from '../clauses/clauses';
import { decodePad, settingsOf } from '../decode';
import type { Device } from '../device';
import {
  dependsOnPad,
  type EncodeRule,
  encodeSettings,
  type FieldValue,
  matchRow,
  wordFor,
} from '../fields/encode';
import { saidAlike } from '../fields/excludes';
import { placeValue, type Slot, slotMask } from '../fields/fields';
import { fullMask, heldBits, type Register } from '../registers/types';
import { checkInterrupts } from './check-interrupts';
import { checkNames } from './check-names';
import { checkStages } from './check-stages';

/**
 * What can be wrong with a recipe though each part of it reads well: fields that leave their register or overlap, tables
 * that miss a tuple or give a value too large for its field, settings that cannot be told apart in the registers.
 */
export function checkRecipe(device: Device): Problem[] {
  const problems = collectProblems();
  const pads = device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined);
  checkWork(device, pads, problems);
  if (problems.length === 0) checkNames(device, problems);
  if (problems.length === 0) checkPlaces(device, pads, problems);
  if (problems.length === 0) checkWays(device, pads, problems);
  if (problems.length === 0) checkStages(device, pads, problems);
  if (problems.length === 0 && hasRecipe(device.description.recipe)) checkTables(device, pads, problems);
  if (problems.length === 0 && hasRecipe(device.description.recipe)) checkInterrupts(device, pads, problems);
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
  const restrictions = device.excludes.length + device.rules.filter((rule) => rule.leftOut).length;
  if (restrictions === 0 || problems.length > 0) return;
  const sorts = new Set(pads.map((pad) => padSort(device, pad))).size;
  // What is said of signals has to be looked at for each of them.
  const ofSignals = device.excludes.some((one) => one.signals);
  const cases = sorts + (ofSignals ? device.description.functions.length : 0);
  const checks = tuples * (restrictions + device.rules.length) * cases;
  if (checks > LIMITS.settingChecks) {
    const message = `its pads differ in so many ways that ${checks} checks would be needed; at most ${limitText('settingChecks')} are done`;
    problems.push({ place: 'recipe, excludes', message });
  }
}

/** What is wrong in one way with many pads is told once, with the first of them and how many others there are. */
class OnePerKind {
  private readonly kinds = new Map<string, { place: string; message: string; pads: Set<string> }>();

  add(kind: string, place: string, pad: string, message: string): void {
    const known = this.kinds.get(kind);
    if (known) known.pads.add(pad);
    else this.kinds.set(kind, { place: `${place}, pad ${pad}`, message, pads: new Set([pad]) });
  }

  get any(): boolean {
    return this.kinds.size > 0;
  }

  tell(problems: Problems): void {
    for (const { place, message, pads } of this.kinds.values()) {
      const others = [...pads].slice(1);
      const more =
        others.length > 6
          ? `${others.slice(0, 5).join(', ')} and ${others.length - 5} more`
          : others.join(', ');
      problems.push({ place, message: others.length > 0 ? `${message}; likewise on ${more}` : message });
    }
  }
}

/** "PA.DIR at 0x1000". */
const registerText = (register: Register): string =>
  `${register.name} at ${hexText(register.address, register.address > 0xffff ? 32 : 16)}`;

function checkPlaces(device: Device, pads: Pad[], problems: Problems): void {
  const found = new OnePerKind();
  const owners = new Map<Register, { mask: number; owner: string }[]>();
  for (const pad of pads) {
    if (problems.full) return;
    for (const field of device.fields.values()) {
      const place = `recipe, field ${field.id}`;
      // A signal without a code is reached through analog mode; it writes no field of a function.
      const functions = field.needsFunction
        ? (device.functionsByPad.get(pad.id) ?? []).filter((fn) => fn.mux !== null)
        : [undefined];
      for (const fn of functions) {
        let slots: readonly Slot[] = [];
        try {
          slots = device.slotsOf(field.id, pad, fn);
        } catch (error) {
          if (!(error instanceof ExpressionError)) throw error;
          found.add(`place ${field.id} ${error.message}`, place, pad.id, error.message);
          continue;
        }
        if (slots.length === 0 && !field.needsFunction && !field.conditional) {
          const message =
            'its position leads to no register; where a pad has no such field, say so with "has"';
          found.add(`none ${field.id}`, place, pad.id, message);
        }
        for (const slot of slots) {
          const held = heldBits(slot.register);
          if (slot.low < 0 || slot.low + slot.bits > held) {
            const half = held < slot.register.bits ? ': its upper half says which are written' : '';
            found.add(
              `leaves ${field.id}`,
              `recipe, field ${field.id}`,
              pad.id,
              `bits ${slot.low}…${slot.low + slot.bits - 1} leave ${registerText(slot.register)} (${held} bits${half})`,
            );
          } else if (!field.shared && !field.needsFunction) {
            const other = claim(owners, slot, `${field.id} of ${pad.id}`);
            if (other)
              found.add(
                `overlaps ${field.id} ${other.split(' ')[0]}`,
                `recipe, field ${field.id}`,
                pad.id,
                `overlaps field ${other} in ${registerText(slot.register)}, ${bitsText(slot)}; if both mean the same bits, say so with "shared"`,
              );
          }
        }
      }
    }
  }
  found.tell(problems);
}

const bitsText = ({ low, bits }: Slot): string =>
  bits === 1 ? `bit ${low}` : `bits ${low}…${low + bits - 1}`;

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
        .map((slot) => wayProblem(device, slot, written.has(field.id)))
        .find((one) => one !== undefined);
      if (message === undefined) continue;
      problems.push({ place, message });
      break;
    }
  }
}

/** What is wrong with how a slot is reached; undefined when nothing is. */
function wayProblem(device: Device, slot: Slot, written: boolean): string | undefined {
  const { register, through, setBy, clearedBy, toggledBy } = slot;
  if (!register.storage && !written && register.clauses?.gives) return undefined;
  if (!register.storage && register.access.kind === 'clauses')
    return `${register.name} holds no bits of its own; name the register that its clauses assign`;
  if (!register.storage)
    return `${register.name} holds no bits of its own (${register.access.kind}); name the register that it acts on`;
  if (!written) return undefined;
  const target = through ?? register;
  const { kind } = target.access;
  const byClauses = clausesOf(device.registers).assigning(target.storage?.word ?? -1).length > 0;
  if (byClauses && !setBy && !clearedBy && !toggledBy) return undefined;
  const shown = kind === 'read' && setBy !== undefined && clearedBy !== undefined;
  if (kind !== 'read-write' && kind !== 'write' && kind !== 'masked' && !shown) {
    const why = kind === 'read' || kind === 'internal' ? 'cannot be written' : `is ${kind}`;
    return `${target.name} ${why}; "through" names the register that the field is written in`;
  }
  const ways = [
    ['set by', setBy, ['set', 'set-clear']],
    ['cleared by', clearedBy, ['clear', 'set-clear']],
    ['toggled by', toggledBy, ['toggle', 'set-clear']],
  ] as const;
  for (const [name, way, kinds] of ways) {
    if (!way) continue;
    if (!kinds.some((one) => one === way.access.kind) || way.target !== target)
      return `"${name}" names ${way.name}, which does not do that to ${target.name}`;
    if (name === 'toggled by' && way.access.kind === 'set-clear' && way.access.both !== 'toggle')
      return `"${name}" names ${way.name}, where both halves ${way.access.both} a bit; say "both toggle" there if they do`;
  }
  return undefined;
}

/** Takes bits for a field of a pad; whose they are already, if somebody's. */
function claim(
  owners: Map<Register, { mask: number; owner: string }[]>,
  slot: Slot,
  owner: string,
): string | undefined {
  const mask = slotMask(slot);
  const claims = owners.get(slot.register) ?? [];
  const clash = claims.find((other) => (other.mask & mask) !== 0);
  if (!clash) claims.push({ mask, owner });
  owners.set(slot.register, claims);
  return clash?.owner;
}

/** Which settings a table was asked for and has no row; told once a table, with all of them. */
interface Missing {
  pad: string;
  tuples: Set<string>;
}

function checkTables(device: Device, pads: Pad[], problems: Problems): void {
  const perPad = device.rules.some(dependsOnPad);
  const perSignal = device.tellsSignals || device.excludes.some((one) => one.signals);
  const seen = new Set<string>();
  const missing = new Map<EncodeRule, Missing>();
  const found = new OnePerKind();
  for (const pad of pads) {
    const fresh: Case[] = [];
    // Tables see no more of a pad than its class and mux code (or else all of it), so one variant speaks for all alike.
    const sort = perPad ? pad.id : padSort(device, pad);
    const variants = variantsOf(device, pad).filter(({ mode, fn }) => {
      const signature = `${sort} ${mode} ${fn?.mux} ${perSignal ? fn?.signal : ''} ${fn && device.lineOf(fn.signal)?.direction}`;
      if (seen.has(signature)) return false;
      seen.add(signature);
      return true;
    });
    for (const { settings, fn } of settingsOf(device, pad, variants)) {
      const line = fn && device.lineOf(fn.signal)?.direction;
      const gaps = device.rules.filter(
        (rule) => !device.lacksField(rule.field, pad) && !matchRow(rule, settings.values, line),
      );
      for (const rule of gaps) {
        const entry = missing.get(rule) ?? { pad: pad.id, tuples: new Set() };
        entry.tuples.add(rule.from.map((key) => wordFor(key, settings.values, line)).join(' '));
        missing.set(rule, entry);
      }
      if (gaps.length > 0) continue;
      const encoded = encodedOf(device, pad, fn, settings, found);
      fresh.push({ settings, fn, encoded });
      checkValues(device, pad, fn, encoded, found);
    }
    // An incomplete table cannot be read back at all.
    if (!found.any && missing.size === 0) checkReadsBack(device, pad, fresh, found);
  }
  found.tell(problems);
  for (const [rule, { pad, tuples }] of missing) {
    const position = device.rules.indexOf(rule) + 1;
    const listed = [...tuples].slice(0, MOST_TUPLES).map((one) => `"${one}"`);
    const more = tuples.size > MOST_TUPLES ? ` and ${tuples.size - MOST_TUPLES} more` : '';
    problems.push({
      place: `recipe, encode ${position} (${rule.field})`,
      message: `its table has no row for ${listed.join(', ')}${more} (${rule.from.join(' ')}; first asked for by pad ${pad}). Add rows, or "*" for all the rest; if they are not to be had, say why with "left out"`,
    });
  }
}

const MOST_TUPLES = 24;

/** Settings of a pad, and the values of its fields. */
interface Case {
  settings: PadSettings;
  fn?: PadFunction;
  encoded: readonly FieldValue[];
}

function encodedOf(
  device: Device,
  pad: Pad,
  fn: PadFunction | undefined,
  settings: PadSettings,
  found: OnePerKind,
): readonly FieldValue[] {
  try {
    return encodeSettings(settings, pad, fn, device);
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    found.add(`value ${error.message}`, 'recipe, encode', pad.id, error.message);
    return [];
  }
}

/** Values that do not fit their fields. */
function checkValues(
  device: Device,
  pad: Pad,
  fn: PadFunction | undefined,
  encoded: readonly FieldValue[],
  found: OnePerKind,
): void {
  for (const { field: id, value } of encoded) {
    const field = device.fields.get(id);
    if (!field) continue;
    const slots = device.slotsOf(id, pad, fn);
    // A field may be narrower here than elsewhere.
    const width = slots.length > 0 ? slots.reduce((sum, slot) => sum + slot.bits, 0) : field.width;
    if (value >= 0 && value <= fullMask(width)) continue;
    const where = slots[0] ? ` in ${registerText(slots[0].register)}` : '';
    const message = `${value} does not fit its ${width} bits${where}${fn ? ` (${fn.signal})` : ''}; from 0 to ${fullMask(width)} do`;
    found.add(`wide ${id}`, `recipe, field ${id}`, pad.id, message);
  }
}

/**
 * What registers on the side of signals hold while nobody leads those signals to the pad: their reset values, or where these select the pad
 * already another one.
 */
function leadingElsewhere(device: Device, pad: Pad): ReadonlyMap<Register, number> {
  const taken = new Map<Register, Set<number>>();
  const seen = new Set<PadFunction>();
  for (const { settings, fn } of settingsOf(device, pad)) {
    // Which settings the function has does not matter to what selects the pad.
    if (!fn || seen.has(fn)) continue;
    seen.add(fn);
    for (const { field, value } of encodeSettings(settings, pad, fn, device)) {
      if (!device.fields.get(field)?.needsFunction) continue;
      const [slot, ...more] = device.slotsOf(field, pad, fn);
      if (!slot || more.length > 0) continue;
      const { register } = slot;
      const held = ((register.reset & ~slotMask(slot)) | placeValue(slot, value)) >>> 0;
      taken.set(register, (taken.get(register) ?? new Set()).add(held));
    }
  }
  const free = new Map<Register, number>();
  for (const [register, values] of taken) {
    if (!values.has(register.reset)) continue;
    const all = fullMask(register.bits);
    const elsewhere = [all, 0, ...Array.from({ length: 64 }, (_, at) => at & all)].find(
      (value) => !values.has(value),
    );
    if (elsewhere !== undefined) free.set(register, elsewhere);
  }
  return free;
}

/** Encodes each setting into reset values and decodes it again: exactly that setting must come back. */
function checkReadsBack(device: Device, pad: Pad, cases: readonly Case[], problems: OnePerKind): void {
  const movable = [...device.fields.values()].some((field) => field.needsFunction);
  const elsewhere = movable ? leadingElsewhere(device, pad) : new Map<Register, number>();
  for (const { settings, fn, encoded } of cases) {
    const written = new Map<Register, number>();
    const contents = (register: Register): number =>
      written.get(register) ?? elsewhere.get(register) ?? register.reset;
    for (const { field, value } of encoded) {
      for (const slot of device.slotsOf(field, pad, fn)) {
        const kept = (contents(slot.register) & ~slotMask(slot)) >>> 0;
        written.set(slot.register, (kept | placeValue(slot, value)) >>> 0);
      }
    }
    const found = decodePad(device, pad, contents);
    const other = found.find(
      (one) => !sameSettings(one, settings) && saidAlike(device.alike, one, settings) === undefined,
    );
    const words = ({ values, mux, signal }: PadSettings) =>
      [...Object.values(values), ...(mux === null ? [] : [`code ${mux}`]), signal ?? '']
        .filter(Boolean)
        .join(' ');
    if (other || found.length === 0) {
      problems.add(
        other ? 'same bits' : 'not found',
        'recipe, encode',
        pad.id,
        other
          ? `"${words(settings)}" and "${words(other)}" give the same bits; if no bit tells them apart on this part, say so with "alike"`
          : `"${words(settings)}" is not found in the bits it gives`,
      );
      return;
    }
  }
}
