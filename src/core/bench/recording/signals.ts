import type { Setup } from '../engine/setup';
import type { Bench } from '../engine/sync';
import { namesIn } from '../script/names';
import type { Lane } from '../trace/lanes';
import type { VcdSignal } from '../trace/vcd-write';

/** What is shown as a lane: a net, several as one number, or a voltage. */
export interface Signal extends VcdSignal {
  /** Net or group. */
  id: string;
  circuit: string;
  kind: 'net' | 'bus' | 'analog';
  /** Must keep its level until the firmware uses it. */
  guarded: boolean;
}

const known = new WeakMap<Setup, { lanes: readonly Lane[]; signals: Signal[] }>();

/** The lanes of a bench by circuit, buses and circuits' outputs behind them. */
export function signalsOf({ setup, state }: Bench): Signal[] {
  const before = known.get(setup);
  if (before?.lanes === state.lanes) return before.signals;
  const { plan } = setup.derived;
  const laneOf = (net: string): Lane | undefined => {
    const at = setup.byNet.get(net);
    return at === undefined ? undefined : state.lanes[at];
  };
  const circuitName = (id: string): string => plan.circuits.find((one) => one.id === id)?.name ?? '';
  const nets = plan.circuits.flatMap((circuit) =>
    plan.nets
      .filter((net) => net.circuit === circuit.id)
      .flatMap((net): Signal[] => {
        const lane = laneOf(net.id);
        if (!lane) return [];
        const analog = net.role.kind === 'analog' || net.role.kind === 'analog-output';
        return [
          {
            id: net.id,
            name: net.name,
            scope: circuit.name,
            circuit: circuit.id,
            kind: analog ? 'analog' : 'net',
            lanes: [lane],
            ...(analog ? { analog: true } : {}),
            guarded: net.demands?.beforeInit !== undefined,
          },
        ];
      }),
  );
  const groups = namesIn(setup.derived).targets.flatMap((target): Signal[] => {
    const lanes = target.nets.map(laneOf);
    if (!target.group || lanes.some((one) => one === undefined)) return [];
    const first = plan.nets.find((net) => net.id === target.nets[0]);
    return [
      {
        id: target.id,
        name: target.name,
        scope: circuitName(first?.circuit ?? ''),
        circuit: first?.circuit ?? '',
        kind: 'bus',
        lanes: lanes as Lane[],
        inverted: target.nets.map((id) => plan.nets.find((net) => net.id === id)?.settings.active === 'low'),
        guarded: false,
      },
    ];
  });
  const signals = [...nets, ...groups];
  known.set(setup, { lanes: state.lanes, signals });
  return signals;
}
