import { defaultOf } from '../../description/meanings';
import type { SettingKey } from '../../description/settings';
import { EARLY_KEYS } from '../../description/settings';
import type { PadId } from '../../description/types';
import type { Device } from '../../device/device';
import { type Contribution, contributionsOf, type PlannedPad } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import type { CodeStyle } from '../../plan/model/types';

export type Contributions = readonly Contribution[];

/** What pads want of a field in one register: all, and what may not be written before its stage. In the order of the pads. */
export interface FieldWants {
  all: Contributions;
  loud: Contributions;
}

/** What all pads want, by field and register, registers by address; and what may be written before its stage, by register. */
export interface Gathered {
  device: Device;
  style: CodeStyle;
  planned: readonly PlannedPad[];
  byField: ReadonlyMap<string, ReadonlyMap<Register, FieldWants>>;
  early: ReadonlyMap<Register, Contributions>;
}

const earlyFields = new WeakMap<Device, Map<string, SettingKey[]>>();

/** Fields that only such settings decide, and that no key or selection of their stage's own has to come before. */
function earlyKeys(device: Device): Map<string, SettingKey[]> {
  let found = earlyFields.get(device);
  if (!found) {
    found = new Map();
    const keyed = new Set(
      device.stages.flatMap(({ beforeEach, afterEach, inTurn, fields = [] }) =>
        inTurn || beforeEach.length > 0 || afterEach.length > 0 ? fields : [],
      ),
    );
    for (const { field, from } of device.rules) {
      if (!keyed.has(field) && from.every((key) => key !== 'line' && EARLY_KEYS.has(key)))
        found.set(
          field,
          from.filter((key): key is SettingKey => key !== 'line'),
        );
    }
    earlyFields.set(device, found);
  }
  return found;
}

/** Nobody asks for anything in a field: its settings have the part's first values. It may be written earlier than its stage. */
const isQuiet = (device: Device, { settings }: PlannedPad, keys: SettingKey[] | undefined): boolean =>
  keys?.every((key) => settings.values[key] === defaultOf(device.description.recipe, key)) === true;

/**
 * Gathers what pads want. With what was gathered for nearly the same pads, only lists are made anew that have changed; the others
 * stay the very same, which tells whoever goes on with them that nothing is new there.
 */
export function gather(
  device: Device,
  planned: readonly PlannedPad[],
  style: CodeStyle,
  earlier?: Gathered,
): Gathered {
  const from = earlier?.device === device && earlier.style === style ? earlier : undefined;
  const now = new Set(planned);
  const before = new Set(from?.planned);
  const gone = (from?.planned ?? []).filter((one) => !now.has(one));
  const fresh = planned.filter((one) => !before.has(one));
  const order = new Map<PadId, number>(planned.map((one, at) => [one.pad.id, at]));
  const lists = new Lists(device, style, order, from);
  for (const one of gone) lists.take(one);
  for (const one of fresh) lists.add(one);
  return { device, style, planned, ...lists.finished() };
}

interface Draft {
  all: Contribution[];
  loud: Contribution[];
}

/** Lists that are copied when they are first changed. */
class Lists {
  private readonly fields: Map<string, Map<Register, FieldWants>>;
  private readonly early: Map<Register, Contributions>;
  private readonly drafts = new Map<string, Map<Register, Draft>>();
  private readonly earlyDrafts = new Map<Register, Contribution[]>();
  private readonly keys: ReadonlyMap<string, SettingKey[]> | undefined;

  constructor(
    private readonly device: Device,
    style: CodeStyle,
    private readonly order: ReadonlyMap<PadId, number>,
    from: Gathered | undefined,
  ) {
    this.fields = new Map(from?.byField as Map<string, Map<Register, FieldWants>> | undefined);
    this.early = new Map(from?.early);
    this.keys = style === 'preserving' ? earlyKeys(device) : undefined;
  }

  /** The list of a field in a register, to be changed. */
  private draft(field: string, register: Register): Draft {
    let own = this.drafts.get(field);
    if (!own) {
      own = new Map();
      this.drafts.set(field, own);
    }
    let draft = own.get(register);
    if (!draft) {
      const known = this.fields.get(field)?.get(register);
      draft = { all: [...(known?.all ?? [])], loud: [...(known?.loud ?? [])] };
      own.set(register, draft);
    }
    return draft;
  }

  private earlyDraft(register: Register): Contribution[] {
    let draft = this.earlyDrafts.get(register);
    if (!draft) {
      draft = [...(this.early.get(register) ?? [])];
      this.earlyDrafts.set(register, draft);
    }
    return draft;
  }

  private each(one: PlannedPad, change: (list: Contribution[], contribution: Contribution) => void): void {
    for (const contribution of contributionsOf(this.device, one)) {
      const { field, register } = contribution;
      const { all, loud } = this.draft(field, register);
      change(all, contribution);
      const quiet = this.keys !== undefined && isQuiet(this.device, one, this.keys.get(field));
      change(quiet ? this.earlyDraft(register) : loud, contribution);
    }
  }

  add(one: PlannedPad): void {
    this.each(one, (list, contribution) => list.push(contribution));
  }

  take(one: PlannedPad): void {
    this.each(one, (list, contribution) => {
      const at = list.indexOf(contribution);
      if (at >= 0) list.splice(at, 1);
    });
  }

  /** The lists in the order of the pads, empty ones left out. */
  finished(): Pick<Gathered, 'byField' | 'early'> {
    const place = (one: Contribution): number => this.order.get(one.pad) ?? -1;
    const sort = (list: Contribution[]): Contribution[] => list.sort((a, b) => place(a) - place(b));
    for (const [field, drafts] of this.drafts) {
      const registers = new Map(this.fields.get(field));
      for (const [register, { all, loud }] of drafts) {
        if (all.length === 0) registers.delete(register);
        else registers.set(register, { all: sort(all), loud: sort(loud) });
      }
      const byAddress = [...registers].sort(([a], [b]) => a.address - b.address);
      this.fields.set(field, new Map(byAddress));
    }
    for (const [register, list] of this.earlyDrafts) {
      if (list.length === 0) this.early.delete(register);
      else this.early.set(register, sort(list));
    }
    return { byField: this.fields, early: this.early };
  }
}
