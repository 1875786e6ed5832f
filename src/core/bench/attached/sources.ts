import { driver, type Element, toRail } from '../circuit/elements';
import { type Act, type Attached, type Clock, OPEN, type Place } from './types';

/** What another chip's output resists, in ohms. */
const CHIP_OHMS = 50;
/** An open-drain output that pulls low, in ohms. */
const PARTNER_OHMS = 25;
const NEVER = Number.POSITIVE_INFINITY;

/** Of the state: what it drives (0 low, 1 high, 2 nothing), what after that, and when. */
const LEVEL = 0;
const BACK = 1;
const UNTIL = 2;
const FREE = 2;

/** A line that another chip drives. */
class Line implements Attached {
  readonly state: Float64Array;
  readonly elements: readonly Element[];

  constructor(
    private readonly element: Element,
    private readonly volts: number,
    private readonly ohms: number,
    private readonly activeLow: boolean,
    level: number,
    private readonly drivesHigh: boolean,
  ) {
    this.elements = [element];
    this.state = Float64Array.from([level, level, NEVER]);
    this.apply();
  }

  apply(): void {
    const level = this.state[LEVEL];
    this.element.bVolts = level === 1 ? this.volts : 0;
    this.element.ohms = level === FREE || (level === 1 && !this.drivesHigh) ? OPEN : this.ohms;
  }

  act({ verb, nanoseconds }: Act, clock: Clock): string | undefined {
    const level = this.levelFor(verb);
    if (level === undefined) return `it can be ${this.drivesHigh ? 'high, low or free' : 'low or free'}`;
    this.state[BACK] = this.state[LEVEL] as number;
    this.state[LEVEL] = level;
    this.state[UNTIL] = nanoseconds === undefined ? NEVER : clock.now + nanoseconds;
    if (nanoseconds !== undefined) clock.wakeAt(clock.now + nanoseconds);
    this.apply();
    return undefined;
  }

  private levelFor(verb: Act['verb']): number | undefined {
    switch (verb) {
      case 'low':
        return 0;
      case 'high':
        return this.drivesHigh ? 1 : FREE;
      case 'free':
        return FREE;
      case 'press':
        return this.activeLow ? 0 : 1;
      case 'release':
        return this.drivesHigh ? (this.activeLow ? 1 : 0) : FREE;
      default:
        return undefined;
    }
  }

  wake(clock: Clock): void {
    if ((this.state[UNTIL] as number) > clock.now) return;
    this.state[UNTIL] = NEVER;
    this.state[LEVEL] = this.state[BACK] as number;
    this.apply();
  }

  look() {
    const level = this.state[LEVEL];
    const word = level === FREE ? 'free' : level === 1 ? 'high' : 'low';
    return { word, on: level !== FREE && (level === 0) === this.activeLow };
  }
}

const lineOf = (place: Place, ohms: number, level: number, drivesHigh: boolean): Attached => {
  const volts = place.figures.volts ?? (place.supplyVolts[0] as number);
  return new Line(
    driver(place.nodes[0] as number, volts, ohms),
    volts,
    ohms,
    place.activeLow[0] ?? false,
    level,
    drivesHigh,
  );
};

export const drivenLine = (place: Place): Attached =>
  lineOf(place, CHIP_OHMS, Math.round(place.figures.starts ?? FREE), true);

export const busPartner = (place: Place): Attached => lineOf(place, PARTNER_OHMS, FREE, false);

/** Of the state: volts in the middle, amplitude, rate in hertz, kind, since when, what noise adds, and when it changes next. */
const VOLTS = 0;
const AMPLITUDE = 1;
const HERTZ = 2;
const KIND = 3;
const SINCE = 4;
const ADDS = 5;
const CHANGES = 6;
const STEADY = 0;
const SINE = 1;
const NOISE = 2;
/** Steps that a period of a sine is drawn in. */
const STEPS_A_PERIOD = 64;
const NOISE_NANOSECONDS = 1e5;

/** An analog source: steady, a sine, or noise. */
class Source implements Attached {
  readonly state: Float64Array;
  readonly elements: readonly Element[];

  constructor(private readonly element: Element) {
    this.elements = [element];
    this.state = Float64Array.from([element.bVolts, 0, 0, STEADY, 0, 0, NEVER]);
  }

  apply(): void {
    this.element.bVolts = (this.state[VOLTS] as number) + (this.state[ADDS] as number);
  }

  act({ verb, value, amplitude = 0, rateHertz = 0 }: Act, clock: Clock): string | undefined {
    if (value === undefined || !Number.isFinite(value)) return 'it takes a voltage';
    if (verb === 'sine' && !(rateHertz > 0 && rateHertz <= 1e6)) return 'a sine takes a rate up to 1 MHz';
    this.state.set([value, amplitude, rateHertz, verb === 'sine' ? SINE : verb === 'noise' ? NOISE : STEADY]);
    this.state[SINCE] = clock.now;
    this.state[ADDS] = 0;
    this.plan(clock);
    this.apply();
    return undefined;
  }

  private plan(clock: Clock): void {
    const kind = this.state[KIND];
    const apart = kind === SINE ? 1e9 / ((this.state[HERTZ] as number) * STEPS_A_PERIOD) : NOISE_NANOSECONDS;
    this.state[CHANGES] = kind === STEADY ? NEVER : clock.now + apart;
    if (kind !== STEADY) clock.wakeAt(clock.now + apart);
  }

  wake(clock: Clock): void {
    if ((this.state[CHANGES] as number) > clock.now) return;
    const amplitude = this.state[AMPLITUDE] as number;
    const seconds = (clock.now - (this.state[SINCE] as number)) / 1e9;
    this.state[ADDS] =
      this.state[KIND] === SINE
        ? amplitude * Math.sin(2 * Math.PI * (this.state[HERTZ] as number) * seconds)
        : amplitude * (2 * clock.chance() - 1);
    this.plan(clock);
    this.apply();
  }

  look() {
    const word = this.state[KIND] === SINE ? 'sine, ' : this.state[KIND] === NOISE ? 'noise, ' : '';
    return { word: `${word}${Number(this.element.bVolts.toPrecision(3))} V` };
  }
}

export const analogSource = ({ nodes, figures }: Place): Attached =>
  new Source(toRail(nodes[0] as number, figures.volts ?? 0, figures.ohms ?? 1000));

/** A potentiometer from ground to the supply. */
class Potentiometer implements Attached {
  readonly state: Float64Array;

  constructor(
    readonly elements: readonly [up: Element, down: Element],
    private readonly ohms: number,
    position: number,
  ) {
    this.state = Float64Array.from([position]);
    this.apply();
  }

  apply(): void {
    const position = this.state[0] as number;
    // At its ends the wiper still resists a little.
    this.elements[0].ohms = Math.max(1, this.ohms * (1 - position));
    this.elements[1].ohms = Math.max(1, this.ohms * position);
  }

  act({ value }: Act): string | undefined {
    if (value === undefined || !(value >= 0 && value <= 1)) return 'it takes a position from 0 to 1';
    this.state[0] = value;
    this.apply();
    return undefined;
  }

  look() {
    return { word: `at ${Math.round((this.state[0] as number) * 100)} %` };
  }
}

export function potentiometer({ nodes, supplyVolts, figures }: Place): Attached {
  const node = nodes[0] as number;
  const up = toRail(node, supplyVolts[0] as number, 1);
  return new Potentiometer([up, toRail(node, 0, 1)], figures.ohms ?? 10_000, figures.position ?? 0.5);
}
