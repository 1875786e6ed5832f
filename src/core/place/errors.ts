import { errorKey, errorKeys, isStandingError } from '../derive/check/harmless';
import { type Derived, derive } from '../derive/derive';
import type { Finding } from '../derive/rules/types';
import { applyEdit } from '../plan/edits/edits';
import type { NetId, Placement, Plan } from '../plan/model/types';
import type { Placements } from './compile/compile';
import type { Placing } from './model/answer';
import type { Model } from './model/model';
import { placingEdit } from './model/moves';

/** An error of a placing, and the places that make it: forbidden together, it cannot come again. */
export interface PlacingError {
  places: Placements;
  message: string;
}

/** More nets than this are forbidden together as they are; fewer are tried for those that are not needed. */
const MOST_TRIED = 6;

/**
 * The errors that rules find in a plan because of where its nets were placed, by deriving it: what a plan has wrong before any of these
 * nets has a pad is not the placing's doing, nor what a net has wrong wherever it lies. From the nets of a finding those that it also holds without are left out (deletion filter).
 */
export class PlacingErrors {
  private inherent: Set<string> | undefined;

  constructor(private readonly model: Model) {}

  of(placing: Placing): PlacingError[] {
    const { device, plan } = this.model;
    const after = applyEdit(plan, placingEdit(placing.moves, 'place'));
    const derived = after.ok ? derive(device, after.value) : after;
    if (!after.ok || !derived.ok) return [];
    const moved = new Set(this.model.items.filter(({ locked }) => !locked).map(({ net }) => net.id));
    const wrong = derived.value.findings.filter(
      (finding) => isStandingError(finding) && finding.nets.some((id) => moved.has(id)),
    );
    if (wrong.length === 0) return [];
    this.inherent ??= this.errorsOf(withoutPads(plan, (id) => moved.has(id)));
    return wrong.flatMap((finding) =>
      this.inherent?.has(errorKey(finding)) ? [] : this.forbiddenBy(after.value, finding),
    );
  }

  /** What must not be, so that a finding is not made again; nothing where it is made wherever its net lies. */
  private forbiddenBy(plan: Plan, finding: Finding): PlacingError[] {
    const { message } = finding;
    const places = this.placesOf(plan, finding);
    const [only] = places.keys();
    if (places.size !== 1 || only === undefined) return [{ places, message }];
    // Of one net by itself all its places are looked at, at once.
    const { device, items } = this.model;
    const item = items.find(({ net }) => net.id === only);
    const all = (item?.choices ?? []).filter(({ forbidden }) => forbidden.length === 0);
    let before: Derived | undefined;
    const wrong = all.filter(({ pad, fn }) => {
      const open = item?.net.role.kind === 'open-signal';
      const placement: Placement = { pad, locked: false, ...(open && fn ? { signal: fn.signal } : {}) };
      const { constraints: _none, ...bare } = plan;
      const alone: Plan = {
        ...bare,
        nets: plan.nets.flatMap((net) => (net.id === only ? [{ ...net, placement }] : [])),
      };
      const derived = derive(device, alone, before);
      if (!derived.ok) return false;
      before = derived.value;
      return before.findings.some(
        (one) => isStandingError(one) && one.rule === finding.rule && one.nets.includes(only),
      );
    });
    if (wrong.length === all.length) {
      this.inherent?.add(errorKey(finding));
      return [];
    }
    return wrong.map(({ pad, fn }) => ({
      places: new Map([[only, { pad, ...(fn ? { signal: fn.signal } : {}) }]]),
      message,
    }));
  }

  private errorsOf(plan: Plan): Set<string> {
    const derived = derive(this.model.device, plan);
    return derived.ok ? errorKeys(derived.value.findings) : new Set();
  }

  /** The nets that make an error, with their places; all that are placed where those that are named do not make it by themselves. */
  private placesOf(plan: Plan, finding: Finding): Placements {
    const makes = (nets: ReadonlySet<NetId>): boolean => {
      const derived = derive(
        this.model.device,
        withoutPads(plan, (id) => !nets.has(id)),
      );
      return (
        derived.ok &&
        derived.value.findings.some(
          (one) => isStandingError(one) && one.rule === finding.rule && one.nets.some((id) => nets.has(id)),
        )
      );
    };
    let nets = new Set(finding.nets);
    if (!makes(nets)) nets = new Set(plan.nets.map(({ id }) => id));
    else if (nets.size > 1 && nets.size <= MOST_TRIED)
      for (const id of finding.nets) {
        const fewer = new Set([...nets].filter((one) => one !== id));
        if (fewer.size > 0 && makes(fewer)) nets = fewer;
      }
    return new Map(
      plan.nets.flatMap(({ id, placement }) => {
        if (!nets.has(id) || !placement) return [];
        const { pad, signal } = placement;
        return [[id, { pad, ...(signal === undefined ? {} : { signal }) }]];
      }),
    );
  }
}

const withoutPads = (plan: Plan, which: (id: NetId) => boolean): Plan => ({
  ...plan,
  nets: plan.nets.map((net) => (net.placement !== null && which(net.id) ? { ...net, placement: null } : net)),
});
