import { derive } from '../derive/derive';
import type { ResolvedNet } from '../derive/resolve/resolve';
import type { Finding } from '../derive/rules/types';
import type { DeviceDescription } from '../description/types';
import type { Device } from '../device/device';
import type { Net, Plan } from '../plan/model/types';

/** What another description of the same part changes for a plan. */
export interface PartComparison {
  /** Data of the description that differ, as a list of sentences. */
  data: string[];
  findings: { gone: Finding[]; fresh: Finding[] };
  nets: { net: Net; what: string[] }[];
  /** Registers of the image whose planned value differs; undefined where a register is not touched or not there. */
  registers: { name: string; bits: number; before: number | undefined; after: number | undefined }[];
  /** Why the plan cannot be derived on the new description at all. */
  problem?: string;
}

/** Derives a plan on the description it was made against and on another one, and tells the difference. */
export function compareParts(plan: Plan, before: Device, after: Device): PartComparison {
  const data = describeDifferences(before.description, after.description);
  const none = { data, findings: { gone: [], fresh: [] }, nets: [], registers: [] };
  // Which description the plan records is what is being decided here.
  const on = (device: Device): Plan => ({ ...plan, deviceFingerprint: device.fingerprint });
  const old = derive(before, on(before));
  const now = derive(after, on(after));
  if (!old.ok) return none;
  if (!now.ok) return { ...none, problem: now.problems[0]?.message };
  const oldIds = new Set(old.value.findings.map((one) => one.id));
  const newIds = new Set(now.value.findings.map((one) => one.id));
  const nets = plan.nets.flatMap((net) => {
    const what = netDifferences(old.value.byNet.get(net.id), now.value.byNet.get(net.id));
    return what.length > 0 ? [{ net, what }] : [];
  });
  const values = (derived: typeof old.value) =>
    new Map(derived.lowered.image.map((entry) => [entry.register.name, entry]));
  const oldImage = values(old.value);
  const newImage = values(now.value);
  const names = [...new Set([...oldImage.keys(), ...newImage.keys()])];
  const registers = names.flatMap((name) => {
    const a = oldImage.get(name);
    const b = newImage.get(name);
    if (a?.planned === b?.planned && a?.register.address === b?.register.address) return [];
    return [{ name, bits: (b ?? a)?.register.bits ?? 32, before: a?.planned, after: b?.planned }];
  });
  return {
    data,
    findings: {
      gone: old.value.findings.filter((one) => !newIds.has(one.id)),
      fresh: now.value.findings.filter((one) => !oldIds.has(one.id)),
    },
    nets,
    registers,
  };
}

function netDifferences(a: ResolvedNet | undefined, b: ResolvedNet | undefined): string[] {
  const what: string[] = [];
  const differ = (name: string, old: string, now: string): void => {
    if (old !== now) what.push(`${name}: ${old || 'none'} → ${now || 'none'}`);
  };
  differ('pin', a?.pins.join(' ') ?? '', b?.pins.join(' ') ?? '');
  differ('signal', a?.fn?.signal ?? '', b?.fn?.signal ?? '');
  differ('mux code', String(a?.fn?.mux ?? ''), String(b?.fn?.mux ?? ''));
  if (a?.fits !== b?.fits) what.push(b?.fits ? 'fits its pad now' : 'does not fit its pad any more');
  const values = (one: ResolvedNet | undefined): string =>
    JSON.stringify(one?.planned?.settings.values ?? {});
  if (values(a) !== values(b) && a?.fits === b?.fits) what.push('settings differ');
  return what;
}

/** How two descriptions differ: packages, pins, pads, functions, peripherals, notes, recipe. */
export function describeDifferences(before: DeviceDescription, after: DeviceDescription): string[] {
  const found: string[] = [];
  const compare = <T>(
    what: string,
    plural: string,
    a: readonly T[],
    b: readonly T[],
    keyOf: (item: T) => string,
  ): void => {
    const bare = (item: T): string =>
      JSON.stringify(item, (key, value) => (key === 'source' ? undefined : value));
    const old = new Map(a.map((item) => [keyOf(item), bare(item)]));
    const now = new Map(b.map((item) => [keyOf(item), bare(item)]));
    const names = {
      added: [...now.keys()].filter((key) => !old.has(key)),
      removed: [...old.keys()].filter((key) => !now.has(key)),
      changed: [...now.keys()].filter((key) => old.has(key) && old.get(key) !== now.get(key)),
    };
    for (const [verb, list] of Object.entries(names)) {
      if (list.length === 0) continue;
      const shown = list.slice(0, 6).join(', ');
      const more = list.length > 6 ? ` and ${list.length - 6} more` : '';
      found.push(`${list.length === 1 ? what : `${list.length} ${plural}`} ${verb}: ${shown}${more}`);
    }
  };
  const pins = (device: DeviceDescription) =>
    device.packages.flatMap((one) =>
      Object.entries(one.pins).map(([pin, pad]) => ({ id: `${one.id} ${pin}`, pad })),
    );
  const packages = (device: DeviceDescription) => device.packages.map(({ pins: _theirOwn, ...one }) => one);
  const id = (item: { id: string }): string => item.id;
  const entries = <T>(record: Record<string, T>) => Object.entries(record);
  const first = (item: [string, unknown]): string => item[0];
  compare('package', 'packages', packages(before), packages(after), id);
  compare('pin', 'pins', pins(before), pins(after), id);
  compare('pad', 'pads', before.pads, after.pads, id);
  const fnKey = (fn: { pad: string; signal: string; mux: number | null; itself?: true }): string =>
    `${fn.signal} on ${fn.pad} (${fn.itself ? 'by itself' : fn.mux === null ? 'analog' : `code ${fn.mux}`})`;
  compare('function', 'functions', before.functions, after.functions, fnKey);
  compare('peripheral', 'peripherals', before.peripherals, after.peripherals, id);
  compare('supply', 'supplies', before.supplies, after.supplies, id);
  compare('pad class', 'pad classes', entries(before.padClasses), entries(after.padClasses), first);
  compare('note', 'notes', entries(before.notes), entries(after.notes), first);
  const blocks = (device: DeviceDescription) =>
    device.recipe.registers.blocks.flatMap((block) => [
      { id: block.id, base: block.base },
      ...block.registers.map((register) => ({ ...register, id: `${block.id}.${register.id}` })),
    ]);
  compare('register', 'registers', blocks(before), blocks(after), id);
  compare(
    'recipe field',
    'recipe fields',
    entries(before.recipe.fields),
    entries(after.recipe.fields),
    first,
  );
  const rest = ({ registers: _r, fields: _f, ...recipe }: DeviceDescription['recipe']): string =>
    JSON.stringify(recipe);
  if (rest(before.recipe) !== rest(after.recipe))
    found.push('recipe changed: tables, stages, settings or ports');
  return found;
}
