import { groupBy } from '../../base/lists';
import { collectProblems, type Problems } from '../../base/problems';
import { failWith, ok, type Result } from '../../base/result';
import { didYouMean } from '../../base/text/near';
import { withBareMaps } from '../../description/bare-maps';
import { applyCorrections } from '../../description/corrections';
import { fingerprintOfDescription } from '../../description/fingerprint';
import { attempt } from '../../description/language/attempt';
import { parseHas, parseWhere } from '../../description/language/has';
import { isPadVariable, isVariable, makeScope } from '../../description/language/scope';
import { parseStatement, type Statement } from '../../description/language/statement';
import type { RecipeSource } from '../../description/recipe';
import {
  type DeviceDescription,
  type Package,
  type PadFunction,
  type PadId,
  type PeripheralKind,
  type PinNumber,
  type SignalId,
  splitSignal,
} from '../../description/types';
import { checkClauses } from '../clauses/check-clauses';
import type { Device, Stage } from '../device';
import { compileBetween } from '../fields/between';
import { checkMeanings } from '../fields/check-meanings';
import { canonical, compileRule, dependsOnSignal, type EncodeRule, encodeSettings } from '../fields/encode';
import { compileExcludes, readWords } from '../fields/excludes';
import { compileField, type Field, type Slot } from '../fields/fields';
import { compileInvariants } from '../fields/invariants';
import { buildRegisters } from '../registers/registers';
import { sizeProblems } from '../registers/sizes';

/** Looks everything up and parses all expressions. What cannot be read is listed, each with its place. */
export function compileDevice(given: DeviceDescription): Result<Device> {
  const original = withBareMaps(given);
  const corrected = applyCorrections(original, original.corrections ?? []);
  const { unapplied } = corrected;
  const description = withBareMaps(corrected.description);
  const problems = collectProblems();
  checkConditions(description.recipe, problems);
  if (problems.length > 0) return failWith(problems.list());
  const sizes = sizeProblems(description);
  if (sizes.length > 0) return failWith(sizes);
  const scopeOf = makeScope(description);
  const { recipe } = description;
  const registers = buildRegisters(description, scopeOf, problems);
  if (problems.length === 0) checkClauses(registers, problems);

  const fields = new Map<string, Field>();
  for (const [id, source] of Object.entries(recipe.fields)) {
    const field = compileField(id, source, description, registers, scopeOf, problems);
    if (field) fields.set(id, field);
  }
  // A field that could not be read has been told; what names it is none the worse for that.
  const isField = (id: string): boolean => Object.hasOwn(recipe.fields, id);
  const noField = (id: string): string =>
    `there is no field ${id}${didYouMean(id, Object.keys(recipe.fields)) || `; the fields are ${Object.keys(recipe.fields).join(', ').slice(0, 300) || 'none'}`}`;
  const rules: EncodeRule[] = [];
  for (const [position, source] of recipe.encode.entries()) {
    const place = `recipe, encode ${position + 1} (${source.field})`;
    if (!isField(source.field)) problems.push({ place, message: noField(source.field) });
    const rule = attempt(() => compileRule(source, recipe), place, problems);
    if (rule) rules.push(rule);
  }
  const stages = recipe.stages.map((stage): Stage => {
    const {
      do: steps = [],
      after: end = [],
      beforeEach: before = [],
      afterEach = [],
      inTurn = false,
      where,
      for: pads,
      ...rest
    } = stage;
    const read = (texts: readonly string[], what: string): Statement[] =>
      texts.flatMap((text, position) => {
        const place = `recipe, stage ${stage.id}, ${what} ${position + 1}`;
        return attempt(() => parseStatement(text), place, problems) ?? [];
      });
    const condition =
      where === undefined
        ? undefined
        : attempt(() => parseWhere(where), `recipe, stage ${stage.id}, where`, problems);
    for (const id of stage.fields ?? []) {
      if (!isField(id)) problems.push({ place: `recipe, stage ${stage.id}`, message: noField(id) });
    }
    const only = pads && attempt(() => readWords(pads, recipe), `recipe, stage ${stage.id}, for`, problems);
    return {
      ...rest,
      statements: read(steps, 'step'),
      endStatements: read(end, 'after'),
      beforeEach: read(before, 'before each'),
      afterEach: read(afterEach, 'after each'),
      inTurn,
      where: condition,
      ...(only ? { for: only } : {}),
    };
  });

  const invariants = compileInvariants(recipe, isPadVariable, problems);
  const { excludes, alike } = compileExcludes(description, problems);
  checkMeanings(recipe, problems);
  checkInterrupts(description, problems);

  const functionsByPad = groupBy(description.functions, (fn) => fn.pad);
  const functionsBySignal = groupBy(description.functions, (fn) => fn.signal);
  const kindNames = new Map(description.peripherals.map((peripheral) => [peripheral.id, peripheral.kind]));
  // Asked for every function of every pad by whoever looks for places; signals are few and texts slow to cut.
  const kinds = new Map<SignalId, PeripheralKind | undefined>();
  const kindOf = (signal: SignalId): PeripheralKind | undefined => {
    if (!kinds.has(signal))
      kinds.set(signal, description.peripheralKinds[kindNames.get(splitSignal(signal)[0]) ?? '']);
    return kinds.get(signal);
  };

  const tellsSignals = rules.some(dependsOnSignal) || [...fields.values()].some((field) => field.needsSignal);
  const slotCache = new Map<PadId, Map<string, Slot[]>>();
  const device: Device = {
    description,
    original,
    unapplied,
    fingerprint: fingerprintOfDescription(description),
    pads: new Map(description.pads.map((pad) => [pad.id, pad])),
    packages: new Map(description.packages.map((one) => [one.id, one])),
    pinsOf: new Map(description.packages.map((one) => [one.id, invertPins(one)])),
    functionsByPad,
    functionsBySignal,
    kindOf,
    lineOf: (signal) => kindOf(signal)?.lines[splitSignal(signal)[1]],
    registers,
    fields,
    rules,
    stages,
    invariants,
    between: compileBetween(description, problems),
    excludes,
    alike,
    scopeOf,
    tellsSignals,
    selection: (fn) => ({
      mux: fn?.mux ?? null,
      ...(tellsSignals && fn && fn.mux !== null ? { signal: spokesman(device, fn) } : {}),
    }),
    lacksField(id, pad) {
      const field = fields.get(id);
      return field?.conditional === true && device.slotsOf(id, pad).length === 0;
    },
    slotsOf(id, pad, fn) {
      const field = fields.get(id);
      // A field of a function has no place on a pad that carries none.
      if (!field || (field.needsFunction && (fn?.mux ?? null) === null)) return [];
      const key = field.needsFunction && fn ? `${id} ${fn.signal} ${fn.mux}` : id;
      let places = slotCache.get(pad.id);
      if (!places) {
        places = new Map();
        slotCache.set(pad.id, places);
      }
      let slots = places.get(key);
      if (!slots) {
        slots = field.locate(pad, fn);
        places.set(key, slots);
      }
      return slots;
    },
  };
  return problems.length > 0 ? failWith(problems.list()) : ok(device);
}

/** Lines that are listed lead to pads that are there, and each pad has one at most. */
function checkInterrupts({ interrupts, pads, recipe }: DeviceDescription, problems: Problems): void {
  if (!interrupts) return;
  const place = 'interrupts';
  if ((interrupts.lines === 'listed') !== (interrupts.listed !== undefined))
    problems.push({
      place,
      message: 'lines are listed under "listed" where "lines" is "listed", and only there',
    });
  const known = new Set(pads.map((one) => one.id));
  const lines = new Map<string, string>();
  const names = new Set<string>();
  const ports = Object.keys(recipe.ports);
  for (const line of interrupts.listed ?? []) {
    const { name } = line;
    if (names.has(name))
      problems.push({ place: `${place}, line ${name}`, message: 'there are two of that name' });
    names.add(name);
    for (const port of line.ports ?? [])
      if (!ports.includes(port))
        problems.push({
          place: `${place}, line ${name}`,
          message: `there is no port ${port}${didYouMean(port, ports)}`,
        });
    const inPorts = pads.filter(({ port }) => port !== undefined && line.ports?.includes(port));
    for (const pad of new Set([...(line.pads ?? []), ...inPorts.map(({ id }) => id)])) {
      const other = lines.get(pad);
      if (!known.has(pad))
        problems.push({ place: `${place}, line ${name}`, message: `there is no pad ${pad}` });
      else if (other !== undefined)
        problems.push({ place: `${place}, line ${name}`, message: `${pad} is on line ${other} as well` });
      lines.set(pad, name);
    }
  }
}

/** Reads every `has` of blocks, registers and guards: they decide what there is before anything else is looked at. */
function checkConditions({ registers }: RecipeSource, problems: Problems): void {
  const check = (has: string | undefined, place: string): void => {
    const read = has === undefined ? undefined : attempt(() => parseHas(has), `${place}, has`, problems);
    for (const name of read?.variables ?? [])
      if (!isVariable(name))
        problems.push({ place: `${place}, has`, message: `there is no variable ${name}` });
  };
  for (const block of registers.blocks) {
    check(block.has, `recipe, block ${block.id}`);
    for (const one of block.registers) check(one.has, `recipe, block ${block.id}, register ${one.id}`);
  }
  for (const [position, guard] of (registers.guards ?? []).entries())
    check(guard.has, `recipe, guard ${position + 1}`);
}

const spokesmen = new WeakMap<Device, Map<PadFunction, SignalId>>();

/**
 * Signals of a pad under one code that give the same bits everywhere cannot be told apart by anybody: the first of them stands
 * for all. Others under that code, told apart by an input-select register or a direction bit, stand for themselves.
 */
function spokesman(device: Device, fn: PadFunction): SignalId {
  let known = spokesmen.get(device);
  if (!known) {
    known = new Map();
    spokesmen.set(device, known);
  }
  let signal = known.get(fn);
  if (signal === undefined) {
    const alike = (device.functionsByPad.get(fn.pad) ?? []).filter((one) => one.mux === fn.mux);
    const own = alike.length > 1 ? bitsOf(device, fn) : undefined;
    signal = (own && alike.find((one) => bitsOf(device, one) === own)?.signal) ?? fn.signal;
    known.set(fn, signal);
  }
  return signal;
}

/** The bits that choosing a function decides, all other settings being the part's first; undefined when it cannot be said. */
function bitsOf(device: Device, fn: PadFunction): string | undefined {
  const pad = device.pads.get(fn.pad);
  if (!pad) return undefined;
  const line = device.lineOf(fn.signal)?.direction;
  const chosen = { values: { mode: 'function' }, mux: fn.mux };
  try {
    const encoded = encodeSettings(canonical(device.description.recipe, chosen, line), pad, fn, device);
    return encoded
      .flatMap(({ field, value }) =>
        device.slotsOf(field, pad, fn).map((slot) => `${slot.register.name} ${slot.low} ${value}`),
      )
      .join();
  } catch {
    // A table that misses a row is reported where recipes are checked.
    return undefined;
  }
}

function invertPins(one: Package): Map<PadId, PinNumber[]> {
  const map = new Map<PadId, PinNumber[]>();
  for (const [pin, pad] of Object.entries(one.pins)) map.set(pad, [...(map.get(pad) ?? []), pin]);
  return map;
}
