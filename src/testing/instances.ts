import { belongTogether } from '@/core/derive/candidates/groups';
import { functionsFor, silentLack, whyNot } from '@/core/derive/resolve/resolve';
import type { Package, Pad, PadFunction, PadId } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { offerOf } from '@/core/device/offers';
import { sharedFields } from '@/core/device/shared-fields';
import { emptyPlan, type Net, type Plan, type Role } from '@/core/plan/model/types';
import { randomOf } from './random';

/** Whether the placer would put a net of that role there by itself. */
function canBe(device: Device, pkg: Package, role: Role, pad: Pad, fn?: PadFunction): boolean {
  const net: Net = { id: 'n', name: 'N', circuit: 'c', role, placement: null, settings: {} };
  return whyNot(device, pkg, role, pad) === undefined && silentLack(device, net, pad, fn) === undefined;
}

/**
 * A random board for a package, of at most so many nets. It is made from a placement, so that there is one; the placement
 * itself is thrown away but for a few locked nets.
 */
export function randomBoard(device: Device, pkg: Package, count: number, seed: number): Plan {
  return new Maker(device, pkg, count, seed).make();
}

/** The same with one demand too many: plain nets are locked on all alternatives of a signal that the plan needs. */
export function impossibleBoard(device: Device, pkg: Package, count: number, seed: number): Plan {
  const plan = randomBoard(device, pkg, count, seed);
  const next = randomOf(seed + 7919);
  const needed = plan.nets.filter(
    ({ role, placement }) =>
      role.kind === 'signal' && !placement?.locked && offerOf(device, pkg).carrying(role.signal).length <= 8,
  );
  const victim = needed[Math.floor(next() * needed.length)];
  if (victim?.role.kind !== 'signal') return oneInstanceTooMany(device, plan);
  const alternatives = offerOf(device, pkg).carrying(victim.role.signal);
  const taken = new Set(plan.nets.flatMap((net) => (net.placement?.locked ? [net.placement.pad] : [])));
  const free = alternatives.map((fn) => fn.pad).filter((pad) => !taken.has(pad));
  const blockers = free.map((pad, index): Net => {
    const io = device.pads.get(pad);
    const kind = io && canBe(device, pkg, { kind: 'output' }, io) ? 'output' : 'input';
    return {
      id: `b${index}`,
      name: `BLOCK_${String.fromCharCode(65 + index)}`,
      circuit: plan.circuits[0]?.id ?? '',
      role: { kind },
      placement: { pad, locked: true },
      settings: {},
    };
  });
  return { ...plan, nets: [...plan.nets, ...blockers] };
}

/** Where every signal can go anywhere: one circuit more than there are instances of a kind. */
function oneInstanceTooMany(device: Device, plan: Plan): Plan {
  const kind =
    Object.keys(device.description.peripheralKinds).find((one) => belongTogether(device, one)) ?? '';
  const lines = device.description.peripheralKinds[kind]?.needs ?? ['TX', 'RX'];
  const instances = device.description.peripherals.filter((one) => one.kind === kind);
  const circuits = instances.map((_, index) => ({ id: `x${index}`, name: `Extra ${index}` }));
  circuits.push({ id: 'x', name: 'Extra' });
  const nets = circuits.flatMap((circuit) =>
    lines.map(
      (line): Net => ({
        id: `${circuit.id}-${line}`,
        name: `${circuit.id.toUpperCase()}_${line}`,
        circuit: circuit.id,
        role: { kind: 'open-signal', peripheral: kind, line },
        placement: null,
        settings: {},
      }),
    ),
  );
  return {
    ...plan,
    circuits: [...plan.circuits, ...circuits],
    nets: [
      ...plan.nets.filter((net) => net.role.kind !== 'open-signal' || net.role.peripheral !== kind),
      ...nets,
    ],
  };
}

class Maker {
  private readonly next: () => number;
  private readonly free: Set<PadId>;
  private readonly used = new Set<string>();
  /** Values of bits that several pads' functions share, as the functions chosen so far set them. */
  private readonly modes = new Map<number, number>();
  private readonly plan: Plan;
  private circuit = '';

  constructor(
    private readonly device: Device,
    private readonly pkg: Package,
    private readonly count: number,
    seed: number,
  ) {
    this.next = randomOf(seed);
    const taken = new Set((device.description.forced ?? []).flatMap((one) => [one.pad, ...one.takes]));
    const bonded = device.pinsOf.get(pkg.id);
    const pads = device.description.pads.filter(
      (pad) => pad.kind === 'io' && bonded?.has(pad.id) && !taken.has(pad.id),
    );
    this.free = new Set(pads.map((pad) => pad.id));
    this.plan = emptyPlan('Board', device.description.id, pkg.id, device.fingerprint);
  }

  make(): Plan {
    const { plan, device } = this;
    const goal = Math.min(this.count, Math.floor(this.free.size * 0.8));
    const kinds = Object.keys(device.description.peripheralKinds);
    const whole = kinds.filter((kind) => belongTogether(device, kind));
    for (let tries = 0; tries < 60 && plan.nets.length < goal * 0.5; tries++) {
      const instances = device.description.peripherals.filter((one) => whole.includes(one.kind));
      const instance = this.pick(instances);
      if (instance) this.addInstance(instance.id, instance.kind);
    }
    this.begin();
    for (let tries = 0; tries < 40 && plan.nets.length < goal * 0.7; tries++) this.addChannel();
    for (let number = 0; plan.nets.length < goal; number++) {
      if (number % 8 === 0) this.begin();
      const pad = this.pick([...this.free]);
      if (pad === undefined) break;
      const kind = this.next() < 0.5 ? 'output' : 'input';
      const io = device.pads.get(pad);
      if (!io || !canBe(device, this.pkg, { kind }, io)) {
        if (whyNot(device, this.pkg, { kind: 'input' }, io as never) !== undefined) this.free.delete(pad);
        continue;
      }
      this.add({ kind }, pad, `${kind === 'output' ? 'OUT' : 'IN'}_${number}`, this.next() < 0.1);
    }
    return plan;
  }

  private pick<T>(items: readonly T[]): T | undefined {
    return items[Math.floor(this.next() * items.length)];
  }

  /** Whether a function leaves the shared bits as others have set them. */
  private suits(fn: PadFunction, others: readonly PadFunction[] = []): boolean {
    const shared = sharedFields(this.device, this.pkg);
    const set = new Map(this.modes);
    for (const one of [...others, fn])
      for (const { mode, value } of shared.get(one) ?? []) {
        if ((set.get(mode) ?? value) !== value) return false;
        set.set(mode, value);
      }
    return true;
  }

  private carries(fn: PadFunction): boolean {
    const pad = this.device.pads.get(fn.pad);
    return pad !== undefined && canBe(this.device, this.pkg, { kind: 'signal', signal: fn.signal }, pad, fn);
  }

  private settle(fn: PadFunction): void {
    for (const { mode, value } of sharedFields(this.device, this.pkg).get(fn) ?? [])
      this.modes.set(mode, value);
  }

  private begin(): void {
    this.circuit = `c${this.plan.circuits.length}`;
    this.plan.circuits.push({ id: this.circuit, name: `Circuit ${this.plan.circuits.length}` });
  }

  private add(role: Role, pad: PadId, name: string, locked: boolean, signal?: string): void {
    this.free.delete(pad);
    this.plan.nets.push({
      id: `n${this.plan.nets.length}`,
      name,
      circuit: this.circuit,
      role,
      placement: locked ? { pad, locked: true, ...(signal ? { signal } : {}) } : null,
      settings: {},
    });
  }

  private addInstance(instance: string, kind: string): void {
    const { device, pkg } = this;
    if (this.used.has(instance)) return;
    const known = device.description.peripheralKinds[kind];
    const lines = Object.keys(known?.lines ?? {}).filter(
      (line) => known?.needs?.includes(line) || line === 'TX' || this.next() < 0.6,
    );
    const alternatives: { line: string; fn: PadFunction }[] = [];
    for (const line of lines) {
      const own = alternatives.map((one) => one.fn);
      const fns = offerOf(device, pkg)
        .carrying(`${instance}.${line}`)
        .filter(
          (fn) =>
            this.free.has(fn.pad) &&
            !own.some((one) => one.pad === fn.pad) &&
            this.carries(fn) &&
            this.suits(fn, own),
        );
      const fn = this.pick(fns);
      if (fn) alternatives.push({ line, fn });
      else if (known?.needs?.includes(line)) return;
    }
    if (alternatives.length < 2) return;
    this.used.add(instance);
    this.begin();
    const open = this.next() < 0.7;
    for (const { line, fn } of alternatives) {
      this.settle(fn);
      const signal = `${instance}.${line}`;
      const role: Role = open ? { kind: 'open-signal', peripheral: kind, line } : { kind: 'signal', signal };
      this.add(role, fn.pad, `${instance}_${line}`, this.next() < 0.05, open ? signal : undefined);
    }
    const select = this.pick([...this.free]);
    const io = device.pads.get(select ?? '');
    if (io && this.next() < 0.5 && canBe(device, pkg, { kind: 'output' }, io))
      this.add({ kind: 'output' }, io.id, `${instance}_SEL`, false);
  }

  private addChannel(): void {
    const { device, pkg } = this;
    const pad = this.pick([...this.free]);
    const io = device.pads.get(pad ?? '');
    if (!io) return;
    if (this.next() < 0.4) {
      const role: Role = { kind: 'analog' };
      if (functionsFor(device, pkg, role, io).length > 0 && whyNot(device, pkg, role, io) === undefined)
        this.add(role, io.id, `SENSE_${this.plan.nets.length}`, false);
      return;
    }
    const channels = offerOf(device, pkg)
      .of(io.id)
      .filter(
        (fn) =>
          fn.mux !== null &&
          !this.used.has(fn.signal) &&
          device.kindOf(fn.signal)?.serves === 'pwm' &&
          this.carries(fn) &&
          this.suits(fn),
      );
    const fn = this.pick(channels);
    if (!fn) return;
    this.used.add(fn.signal);
    this.settle(fn);
    this.add({ kind: 'signal', signal: fn.signal }, io.id, fn.signal.replace('.', '_'), false);
  }
}
