import { type PadFunction, splitSignal } from '../../description/types';
import type { Device } from '../../device/device';
import type { Net, NetId } from '../../plan/model/types';
import { belongTogether, type InstanceGroup, instanceGroups, kindOfRole, namedInstance } from './groups';

interface Placed {
  net: Net;
  fn?: PadFunction;
}

/** What taking a signal of an instance means for the lines that share it. */
interface Use {
  words?: string;
  /** How much the words say, beside the weighted terms of a pad. */
  telling: number;
  /** Why it must not be. */
  breach?: string;
}

const NOTHING: Use = { telling: 0 };
/** What an instance goes on with says more about a pad than what lies around it. */
const COMPLETES = 60;

/** Who uses which instance: the lines of a circuit's peripheral share one, and those of two circuits do not. */
export class InstanceUse {
  private readonly groups: InstanceGroup<Placed>[];
  private readonly groupOf = new Map<NetId, InstanceGroup<Placed>>();
  /** Nets that name an instance. */
  private readonly named = new Map<string, Net[]>();

  constructor(
    private readonly device: Device,
    all: readonly Placed[],
  ) {
    this.groups = instanceGroups(device, all);
    for (const group of this.groups) for (const { net } of group.members) this.groupOf.set(net.id, group);
    for (const { net } of all) {
      const names = namedInstance(device, net.role);
      if (names) this.named.set(names.instance, [...(this.named.get(names.instance) ?? []), net]);
    }
  }

  of(net: Net, fn: PadFunction): Use {
    const kind = kindOfRole(this.device, net.role);
    if (kind === undefined || !belongTogether(this.device, kind)) return NOTHING;
    const [instance] = splitSignal(fn.signal);
    const uses = (one: Placed): boolean => one.fn !== undefined && splitSignal(one.fn.signal)[0] === instance;
    const own = this.groupOf.get(net.id);
    const mates = own?.members.filter((one) => one.fn && one.net.id !== net.id) ?? [];
    const elsewhere = mates.find((one) => !uses(one));
    if (elsewhere) return { telling: 0, breach: `apart from ${elsewhere.net.name}` };
    const another = this.groups.find(
      (group) =>
        group !== own &&
        group.kind === kind &&
        group.members.some((one) => one.net.id !== net.id && uses(one)),
    );
    const others = this.named.get(instance) ?? [];
    if (own) {
      const stranger = others.find((one) => one.circuit !== net.circuit);
      if (another || stranger)
        return { telling: 0, breach: `${instance} serves ${another ? 'other lines' : 'another circuit'}` };
    } else if (another && another.circuit !== net.circuit)
      return { telling: 0, breach: `${instance} serves another circuit` };
    if (mates.length > 0 || others.some((one) => one.id !== net.id && one.circuit === net.circuit))
      return { words: `completes ${instance}`, telling: COMPLETES };
    return { words: `begins ${instance}`, telling: 0 };
  }
}
