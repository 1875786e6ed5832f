import { splitSignal } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { type Edit, invertEdit } from '@/core/plan/edits/edits';
import {
  addAttachment,
  addConstraint,
  addNets,
  addTrial,
  addWaiver,
  placeNet,
  removeAttachment,
  removeConstraint,
  removeNets,
  removeTrial,
  removeWaiver,
  renameNet,
  setCircuit,
  setDemands,
  setEntry,
  setFar,
  setNote,
  setRole,
  setSetting,
} from '@/core/plan/edits/make-edits';
import { type PlanField, planField } from '@/core/plan/edits/plan-set';
import {
  CIRCUIT_SETTINGS,
  CONSTRAINT_KINDS,
  isCircuitSetting,
  NET_SETTING_KEYS,
  type Net,
  PLAIN_ROLES,
  type Plan,
  type Role,
  UNUSED_POLICIES,
} from '@/core/plan/model/types';

/** Random edits as somebody makes who tries everything, sensible and not: most change nets and where they are. */
export class RandomEdits {
  private fresh = 0;
  private readonly done: Edit[] = [];

  constructor(
    private readonly device: Device,
    private readonly next: () => number,
  ) {}

  private int(below: number): number {
    return Math.floor(this.next() * below);
  }

  private pick<T>(list: readonly T[]): T {
    return list[this.int(list.length)] as T;
  }

  /** An edit of the plan; now and then one that takes an earlier one back, which then may not apply. */
  edit(plan: Plan): Edit {
    const edit =
      this.done.length > 0 && this.int(12) === 0 ? invertEdit(this.pick(this.done)) : this.anew(plan);
    this.done.push(edit);
    if (this.done.length > 20) this.done.shift();
    return edit;
  }

  private anew(plan: Plan): Edit {
    const net = plan.nets.length > 0 ? this.pick(plan.nets) : undefined;
    if (!net || (plan.nets.length < 30 && this.int(9) === 0)) return this.add(plan);
    switch (this.int(22)) {
      case 0:
      case 1:
      case 2:
      case 3:
      case 4:
        return placeNet(net, this.place(net));
      case 5:
        return placeNet(net, null);
      case 6:
        return placeNet(net, net.placement && { ...net.placement, locked: !net.placement.locked });
      case 7:
      case 8:
      case 9:
        return this.setting(net);
      case 10:
        return setRole(net, this.role());
      case 11:
        return setDemands(net, this.demands());
      case 12:
        return renameNet(net, this.pick([`N_${this.int(20)}`, `${net.name}_`, 'two words', 'A']));
      case 13:
        return removeNets(plan, [net]);
      case 14:
        return this.constrain(plan);
      case 15:
        return this.waive(plan, net);
      case 16:
        return setCircuit(net, this.pick(plan.circuits).id);
      case 17:
        return this.int(2) ? setNote(net, `note ${this.int(5)}`) : setFar(net, { label: `J${this.int(3)}` });
      case 18:
        return this.table(plan);
      case 19:
        return this.attach(plan, net);
      case 20:
        return this.trial(plan, net);
      default:
        return this.planField(plan, net);
    }
  }

  private add(plan: Plan): Edit {
    const id = `f${++this.fresh}`;
    const circuit =
      plan.circuits.length > 0 && this.int(3) ? this.pick(plan.circuits) : { id, name: `C${id}` };
    const net: Net = {
      id,
      name: `N${id}`,
      circuit: circuit.id,
      role: this.role(),
      placement: null,
      settings: {},
    };
    const known = plan.circuits.some((one) => one.id === circuit.id);
    return addNets(plan, known ? [] : [circuit], [
      { ...net, placement: this.int(2) ? this.place(net) : null },
    ]);
  }

  private role(): Role {
    if (this.int(2)) return { kind: this.pick(PLAIN_ROLES) };
    const { signal } = this.pick(this.device.description.functions);
    const [instance, line] = splitSignal(signal);
    const kind = this.device.description.peripherals.find((one) => one.id === instance)?.kind ?? '';
    return this.int(2) ? { kind: 'signal', signal } : { kind: 'open-signal', peripheral: kind, line };
  }

  /** A pad that suits the net, or any at all. */
  private place(net: Net): Net['placement'] {
    const { role } = net;
    const suiting = this.device.description.functions.filter((fn) =>
      role.kind === 'signal'
        ? fn.signal === role.signal
        : role.kind === 'open-signal' && splitSignal(fn.signal)[1] === role.line,
    );
    const locked = this.int(6) === 0;
    if (suiting.length > 0 && this.int(4)) {
      const { pad, signal } = this.pick(suiting);
      return { pad, locked, ...(role.kind === 'open-signal' ? { signal } : {}) };
    }
    const io = this.device.description.pads.filter((pad) => pad.kind === 'io' || this.int(20) === 0);
    return { pad: this.pick(io).id, locked };
  }

  private setting(net: Net): Edit {
    const key = this.pick(NET_SETTING_KEYS);
    if (isCircuitSetting(key))
      return setSetting(net, key, this.pick([...CIRCUIT_SETTINGS[key].values, null]));
    return setSetting(
      net,
      key,
      this.pick([...(this.device.description.recipe.settings[key] ?? []), 'odd', null]),
    );
  }

  private demands(): NonNullable<Net['demands']> {
    return this.pick<NonNullable<Net['demands']>>([
      {},
      { milliamps: this.int(30) + 1 },
      { rateHertz: 10 ** this.int(8) },
      { farVolts: this.pick([1.8, 3.3, 5, 12]) },
      { farPull: this.pick(['up', 'down', 'driven']), farPullOhms: 4700 },
      { beforeInit: this.pick(['high', 'low']) },
      { side: this.pick(['left', 'top']) },
      { load: { kind: 'coil', volts: 12, ohms: 400 } },
    ]);
  }

  private constrain(plan: Plan): Edit {
    const known = plan.constraints ?? [];
    if (known.length > 0 && this.int(2)) return removeConstraint(plan, this.pick(known));
    const nets = [...new Set([0, 1, 2].map(() => this.pick(plan.nets).id))];
    return addConstraint(plan, { id: `k${++this.fresh}`, kind: this.pick(CONSTRAINT_KINDS), nets });
  }

  private attach(plan: Plan, net: Net): Edit {
    const known = plan.attachments ?? [];
    if (known.length > 0 && this.int(2)) return removeAttachment(plan, this.pick(known));
    const kind = this.pick(['button', 'led', 'capacitor', 'terminator', 'encoder'] as const);
    const nets = kind === 'encoder' ? [net.id, this.pick(plan.nets).id] : [net.id];
    return addAttachment(plan, {
      id: `a${++this.fresh}`,
      kind,
      nets,
      ...(kind === 'led' ? { figures: { ohms: this.int(1000) + 1 } } : {}),
    });
  }

  private trial(plan: Plan, net: Net): Edit {
    const known = plan.trials ?? [];
    if (known.length > 0 && this.int(2)) return removeTrial(plan, this.pick(known));
    const number = ++this.fresh;
    return addTrial(plan, { id: `t${number}`, name: `trial ${number}`, lines: [`expect {${net.id}} high`] });
  }

  private waive(plan: Plan, net: Net): Edit {
    const known = plan.waivers ?? [];
    if (known.length > 0 && this.int(2)) return removeWaiver(plan, this.pick(known));
    return addWaiver(plan, {
      id: `w${++this.fresh}`,
      rule: this.pick(['unplaced', 'floating-input', 'two-nets', 'unproven', 'half-placed']),
      nets: [net.id],
      pads: [],
      reason: 'r',
      author: 'a',
      date: '2026-11-26',
    });
  }

  private table(plan: Plan): Edit {
    const pad = this.pick(this.device.description.pads).id;
    switch (this.int(3)) {
      case 0:
        return setEntry(plan, 'unused', this.int(2) ? '*' : pad, this.pick([...UNUSED_POLICIES, null]));
      case 1:
        return setEntry(plan, 'label', pad, this.pick(['J1', 'J2', null]));
      default:
        return setEntry(
          plan,
          'severity',
          this.pick(['unplaced', 'floating-input']),
          this.pick(['off', 'error', null]),
        );
    }
  }

  private planField(plan: Plan, net: Net): Edit {
    const set = (field: PlanField, to: string): Edit => ({
      kind: 'plan.set',
      field,
      from: planField(plan, field),
      to,
    });
    switch (this.int(6)) {
      case 4:
        return this.pick([
          () => set('code.functions', this.pick(['one', 'circuits'])),
          () => set('code.deinit', this.pick(['on', 'off'])),
          () => set('code.comments', this.pick(['all', 'stages', 'none'])),
          () => set('code.hooks', this.pick(['on', 'off'])),
          () => set('code.registers', this.pick(['', '{block}->{register}'])),
        ])();
      case 0:
        return set('package', this.pick([...this.device.packages.keys()]));
      case 1:
        return set('code.style', this.pick(['preserving', 'from-reset']));
      case 2:
        return set('name', `Plan ${this.int(9)}`);
      case 3: {
        const pins = Object.keys(this.device.packages.get(plan.package)?.pins ?? {});
        const to = { file: 'b.csv', designator: 'U1', pins: [{ pin: this.pick(pins), net: net.name }] };
        return { kind: 'schematic.set', from: plan.schematic ?? null, to: this.int(2) ? to : null };
      }
      default:
        return set('code.prefix', this.pick(['', 'p']));
    }
  }
}
