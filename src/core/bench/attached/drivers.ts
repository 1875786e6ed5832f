import { diode, type Element, toRail } from '../circuit/elements';
import { type Attached, type Clock, lasting, MILLISECOND, milliampsText, type Place } from './types';

/** Of a bipolar transistor's base, in volts. */
const BASE_VOLTS = 0.7;
/** A base current that is sure to switch what hangs on the collector, in amperes. */
const BASE_AMPERES = 0.1e-3;
const NEVER = Number.POSITIVE_INFINITY;

/** Of the state: the coil is energised, the contact is closed, and when the contact follows. */
const ENERGISED = 0;
const CLOSED = 1;
const FOLLOWS = 2;

/** A coil and its contact, which follows after its time. */
class Contactor implements Attached {
  readonly elements: readonly Element[];
  readonly state = Float64Array.from([0, 0, NEVER]);

  constructor(
    private readonly sensed: Element,
    private readonly enough: number,
    private readonly figures: Readonly<Record<string, number>>,
  ) {
    this.elements = [sensed];
  }

  apply(): void {}

  act(): string | undefined {
    return 'nothing can be done to it';
  }

  on(amperes: (element: Element) => number): boolean {
    return Math.abs(amperes(this.sensed)) >= this.enough;
  }

  settle(amperes: (element: Element) => number, clock: Clock): void {
    const energised = this.on(amperes) ? 1 : 0;
    if (this.state[ENERGISED] === energised) return;
    this.state[ENERGISED] = energised;
    if (this.state[CLOSED] === energised) {
      this.state[FOLLOWS] = NEVER;
      return;
    }
    const { closesMilliseconds = 0, opensMilliseconds = 0 } = this.figures;
    const after = (energised ? closesMilliseconds : opensMilliseconds) * MILLISECOND;
    this.state[FOLLOWS] = clock.now + after;
    clock.wakeAt(clock.now + after);
  }

  wake(clock: Clock): void {
    if ((this.state[FOLLOWS] as number) > clock.now) return;
    this.state[FOLLOWS] = NEVER;
    this.state[CLOSED] = this.state[ENERGISED] as number;
  }

  look() {
    const [energised, closed] = this.state;
    const word = closed ? (energised ? 'closed' : 'opening') : energised ? 'closing' : 'open';
    return { word, on: energised === 1 };
  }
}

/** The base of a driver: towards the supply for a net that is active low, towards ground for the others. */
function baseOf({ nodes, supplyVolts, activeLow, figures }: Place): Element {
  const net = { node: nodes[0] as number };
  const ohms = figures.ohms ?? 1000;
  return activeLow[0]
    ? diode({ volts: figures.volts ?? (supplyVolts[0] as number) }, net, BASE_VOLTS, ohms)
    : diode(net, { volts: 0 }, BASE_VOLTS, ohms);
}

export const contactor = (place: Place): Attached =>
  new Contactor(baseOf(place), BASE_AMPERES, place.figures);

/** What takes a current that is known, through whatever switches it; on from half of that current. */
export function load({ nodes, supplyVolts, activeLow, figures }: Place): Attached {
  const net = { node: nodes[0] as number };
  const [volts = 3.3] = supplyVolts;
  const amperes = (figures.milliamps ?? 5) / 1000;
  const ohms = Math.max(1, (volts - BASE_VOLTS) / amperes);
  const element = activeLow[0]
    ? diode({ volts }, net, BASE_VOLTS, ohms)
    : diode(net, { volts: 0 }, BASE_VOLTS, ohms);
  const isOn = (current: number): boolean => Math.abs(current) >= amperes / 2;
  return {
    ...lasting([element], (through) => {
      const current = through(element);
      return { word: isOn(current) ? `takes ${milliampsText(Math.abs(current))}` : 'off', on: isOn(current) };
    }),
    on: (through) => isOn(through(element)),
  };
}

/** A coil pulls in at this part of its rated current. */
const PULLS_IN = 0.7;

/** A coil that the pad drives itself. */
export function coil({ nodes, activeLow, figures }: Place): Attached {
  const { volts = 3.3, ohms = 250 } = figures;
  const element = toRail(nodes[0] as number, activeLow[0] ? volts : 0, ohms);
  return new Contactor(element, (volts / ohms) * PULLS_IN, figures);
}
