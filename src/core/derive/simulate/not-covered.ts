import { defaultOf, titleOf } from '../../description/meanings';
import { selectingRegisters } from '../../device/bookkeeping';
import type { Device } from '../../device/device';
import { betweenSources } from '../../device/fields/between';
import { accepts, type WordSets } from '../../device/fields/excludes';
import { type PlannedPad, wantedOf } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import type { Lowered } from '../lower/lower';
import { bitWords } from '../machine/mishap-text';

/**
 * What "proven" does not cover, collected from the plan, the operations and the description: settings that no bit tells apart, what steps
 * of the recipe decide instead of the plan, times that are the document's word, and what the description lets pads be for a moment.
 */
export interface NotCovered {
  kind: 'alike' | 'itself' | 'steps' | 'effects' | 'time' | 'between' | 'flags' | 'accessors';
  /** For people to read; may hold the description's own words. */
  text: string;
  /** The pads that it is about; empty where it is about all of them. */
  pads: string[];
}

export function notCovered(
  device: Device,
  planned: readonly PlannedPad[],
  lowered: Lowered,
  absent: readonly { action: string; pads: string[]; why: string }[] = [],
): NotCovered[] {
  return [
    ...alikeSettings(device, planned),
    ...takenByThemselves(planned),
    ...decidedBySteps(device, planned, lowered),
    ...effectsOnly(lowered),
    ...times(device, planned, lowered),
    ...allowedBetween(device),
    ...unwatchedFlags(device, planned),
    ...notOffered(absent),
  ];
}

const settingText = (device: Device, words: WordSets): string =>
  [...words]
    .map(([key, values]) => `${titleOf(device.description.recipe, key)} ${[...values].join(' or ')}`)
    .join(', ');

/** Settings that the description says are alike: which of them a pad has, no bit shows. */
function alikeSettings(device: Device, planned: readonly PlannedPad[]): NotCovered[] {
  return device.alike.flatMap(({ words, why }): NotCovered[] => {
    const pads = planned.filter(({ settings }) => accepts(words, settings.values)).map(({ pad }) => pad.id);
    if (pads.length === 0) return [];
    return [
      {
        kind: 'alike',
        pads,
        text: `${padsText(pads)}: ${settingText(device, words)}, which no register bit tells apart (${why})`,
      },
    ];
  });
}

/** Functions that no register selects: the port is left as for a plain input, whatever direction or type their line has. */
function takenByThemselves(planned: readonly PlannedPad[]): NotCovered[] {
  const taken = planned.filter(({ fn }) => fn?.itself);
  if (taken.length === 0) return [];
  return [
    {
      kind: 'itself',
      pads: taken.map(({ pad }) => pad.id),
      text: `${padsText(taken.map(({ pad, fn }) => `${pad.id} (${fn?.signal})`))}: no register selects the function; the pad is left a plain input, and what direction, output type or speed the function needs is not set up`,
    },
  ];
}

/** Accessors that there is no way for; what is so for the same reason is said once. */
function notOffered(absent: readonly { action: string; pads: string[]; why: string }[]): NotCovered[] {
  const byReason = new Map<string, { action: string; pads: string[]; why: string }>();
  for (const { action, pads, why } of absent) {
    const key = `${action} ${why}`;
    const known = byReason.get(key);
    if (known && action === 'toggle') known.pads.push(...pads);
    else byReason.set(known ? `${key} ${pads.join(' ')}` : key, { action, pads: [...pads], why });
  }
  return [...byReason.values()].map(({ action, pads, why }) => ({
    kind: 'accessors',
    pads,
    text: `no ${action} is offered for ${padsText(pads)}: ${why}`,
  }));
}

/** Interrupts of which the description does not say what enables them, or what shows that they have happened. */
function unwatchedFlags({ description }: Device, planned: readonly PlannedPad[]): NotCovered[] {
  const { enable, pending } = description.recipe.access;
  const none = defaultOf(description.recipe, 'trigger');
  const pads = planned.flatMap(({ pad, settings }) =>
    none !== undefined && settings.values.trigger !== undefined && settings.values.trigger !== none
      ? [pad.id]
      : [],
  );
  if (pads.length === 0 || (enable !== undefined && pending !== undefined)) return [];
  const missing = [
    ...(enable === undefined ? ['enables an interrupt'] : []),
    ...(pending === undefined ? ['is its flag'] : []),
  ];
  return [
    {
      kind: 'flags',
      pads,
      text: `${padsText(pads)}: whether an old flag interrupts at once when the interrupt is enabled; the description does not name the field that ${missing.join(', and that ')}`,
    },
  ];
}

const MOST_PADS = 8;
const padsText = (pads: readonly string[]): string =>
  pads.length > MOST_PADS
    ? `${pads.slice(0, MOST_PADS).join(', ')} and ${pads.length - MOST_PADS} more`
    : pads.join(', ');

/** Bits that steps of the recipe write, and no pad plans: that their values are right is the description's word. */
function decidedBySteps(device: Device, planned: readonly PlannedPad[], lowered: Lowered): NotCovered[] {
  const byPlan = new Map<Register, number>();
  for (const one of planned)
    for (const { register, mask } of wantedOf(device, one).contributions)
      byPlan.set(register, (byPlan.get(register) ?? 0) | mask);
  const selecting = selectingRegisters(device);
  const [written, worked, selects]: string[][] = [[], [], []];
  for (const { register, mask, back, free } of lowered.decided) {
    // What was read and put back is shown to be as it was.
    const rest = (mask & ~back & ~(byPlan.get(register) ?? 0)) >>> 0;
    const list = (bits: number, into: string[] | undefined): void => {
      if (bits !== 0) into?.push(`${register.name} (${bitWords(bits, register.bits)})`);
    };
    if (selecting.has(register)) list(rest, selects);
    else {
      list((rest & ~free) >>> 0, written);
      list((rest & free) >>> 0, worked);
    }
  }
  const entry = (text: string, list: readonly string[] = []): NotCovered[] =>
    list.length === 0 ? [] : [{ kind: 'steps', pads: [], text: `${text}: ${list.join(', ')}` }];
  return [
    ...entry('values that steps of the recipe write, and no pad plans', written),
    ...entry('values that steps of the recipe work out of what they read', worked),
    ...entry('what registers that select something are left with', selects),
  ];
}

/** Writes that hold nothing which could be looked at afterwards: keys and strobes. */
function effectsOnly({ operations }: Lowered): NotCovered[] {
  const names = new Set(
    operations.flatMap((one) =>
      one.kind === 'write' && (one.register.access.kind === 'key' || one.register.access.kind === 'strobe')
        ? [one.register.name]
        : [],
    ),
  );
  if (names.size === 0) return [];
  return [
    {
      kind: 'effects',
      pads: [],
      text: `what keys and strobes do beyond the description, and that a lock is shut again: ${[...names].join(', ')}`,
    },
  ];
}

/** Waits, and delays that the operations rest on. */
function times(device: Device, planned: readonly PlannedPad[], lowered: Lowered): NotCovered[] {
  const waits = new Set<string>();
  const delayed = new Set<string>();
  const touched = new Set<Register>();
  for (const one of lowered.operations) {
    if (one.kind === 'wait') waits.add(`${one.cycles} cycles in stage ${one.stage}`);
    else {
      touched.add(one.register);
      if (one.register.target) touched.add(one.register.target);
      for (const { register } of one.register.guards) touched.add(register);
      if (one.kind === 'await') waits.add(`at most ${one.cycles} reads of ${one.register.name}`);
    }
  }
  for (const one of planned)
    for (const { slots } of wantedOf(device, one).ends)
      for (const { register } of slots) touched.add(register);
  for (const { followers } of touched)
    for (const { register, source, afterCycles } of followers)
      if (afterCycles > 0 && touched.has(source))
        delayed.add(
          `${register.name} shows ${source === register ? 'its own bits' : source.name} after ${afterCycles === Number.POSITIVE_INFINITY ? 'a time that nobody states' : `${afterCycles} cycles`}`,
        );
  const all = [...waits, ...delayed];
  if (all.length === 0) return [];
  return [{ kind: 'time', pads: [], text: `times, which are the document's word: ${all.join('; ')}` }];
}

/** Values that the description lets settings have for a moment, which are then not reported on the way. */
function allowedBetween(device: Device): NotCovered[] {
  const { recipe } = device.description;
  const entries = betweenSources(recipe).flatMap((entry) => {
    const { setting, values, settings, classes, where, stages } = entry;
    if (values.length === 0) return [];
    const limits = [
      ...(settings ? [`planned ${Object.values(settings).join(', ')}`] : []),
      ...(classes ? [`of class ${classes.join(' or ')}`] : []),
      ...(where === undefined ? [] : [`where ${where}`]),
      ...(stages ? [`in stage ${stages.join(' or ')}`] : []),
    ];
    const limited = limits.length > 0 ? ` (${limits.join('; ')})` : '';
    return [
      `${titleOf(recipe, setting)} ${values.map((one) => (one === '*' ? 'any' : one)).join(' or ')}${limited}`,
    ];
  });
  if (entries.length === 0) return [];
  return [
    {
      kind: 'between',
      pads: [],
      text: `what pads may be for a moment on the way, as the description allows it: ${entries.join(', ')}`,
    },
  ];
}
