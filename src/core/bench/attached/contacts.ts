import { between, driver, type Element } from '../circuit/elements';
import { type Act, type Attached, type Clock, CONTACT_OHMS, MILLISECOND, OPEN, type Place } from './types';

/** What a contact is, in the state of a part: from its place on so many numbers. */
const CLOSED = 0;
const WANTED = 1;
/** Changes of a bounce that are still to come, and when the next one does. */
const LEFT = 2;
const NEXT = 3;
/** When it is let go, and whether it bounces then. */
const LET_GO = 4;
const BOUNCY = 5;
const SIZE = 6;
const NEVER = Number.POSITIVE_INFINITY;

/** Contacts that close and open, each by itself, with bounces. */
class Contacts implements Attached {
  private readonly bounces: number;
  private readonly apart: number;

  constructor(
    readonly elements: Element[],
    figures: Readonly<Record<string, number>>,
    private readonly words: { open: string; closed: string },
    readonly state: Float64Array = new Float64Array(elements.length * SIZE),
  ) {
    for (let one = 0; one < elements.length; one++) {
      this.state[one * SIZE + NEXT] = NEVER;
      this.state[one * SIZE + LET_GO] = NEVER;
    }
    const { bounceMilliseconds = 0, bounces = 0 } = figures;
    this.bounces = bounces;
    this.apart = bounces > 0 ? (bounceMilliseconds * MILLISECOND) / (bounces * 2) : 0;
  }

  private of(one: number, what: number): number {
    return this.state[one * SIZE + what] as number;
  }

  private set(one: number, what: number, value: number): void {
    this.state[one * SIZE + what] = value;
  }

  isClosed(one: number): boolean {
    return this.of(one, CLOSED) === 1;
  }

  apply(): void {
    this.elements.forEach((element, one) => {
      element.ohms = this.isClosed(one) ? CONTACT_OHMS : OPEN;
    });
  }

  /** Closes or opens a contact, at once or after bouncing. */
  move(one: number, close: boolean, bouncy: boolean, clock: Clock): void {
    if (this.isClosed(one) === close && this.of(one, LEFT) === 0) return;
    this.set(one, CLOSED, close ? 1 : 0);
    this.set(one, WANTED, close ? 1 : 0);
    this.set(one, LEFT, bouncy ? this.bounces * 2 : 0);
    this.set(one, BOUNCY, bouncy ? 1 : 0);
    this.plan(one, clock);
  }

  private plan(one: number, clock: Clock): void {
    const next = this.of(one, LEFT) > 0 ? clock.now + this.apart * (0.5 + clock.chance()) : NEVER;
    this.set(one, NEXT, next);
    if (next !== NEVER) clock.wakeAt(next);
  }

  act({ verb, value = 0, nanoseconds, bounces = false }: Act, clock: Clock): string | undefined {
    if (value < 0 || value >= this.elements.length) return `it has ${this.elements.length} contacts`;
    const close = verb !== 'release';
    this.move(value, close, bounces, clock);
    const held = nanoseconds ?? (verb === 'tip' ? 30 * MILLISECOND : undefined);
    const until = close && held !== undefined ? clock.now + held : NEVER;
    this.set(value, LET_GO, until);
    if (until !== NEVER) clock.wakeAt(until);
    this.apply();
    return undefined;
  }

  wake(clock: Clock): void {
    for (let one = 0; one < this.elements.length; one++) {
      if (this.of(one, LET_GO) <= clock.now) {
        this.set(one, LET_GO, NEVER);
        this.move(one, false, this.of(one, BOUNCY) === 1, clock);
      } else if (this.of(one, NEXT) <= clock.now) {
        const left = this.of(one, LEFT) - 1;
        this.set(one, LEFT, left);
        this.set(one, CLOSED, left % 2 === 1 ? 1 - this.of(one, WANTED) : this.of(one, WANTED));
        this.plan(one, clock);
      }
    }
    this.apply();
  }

  look() {
    let lit = 0;
    let closed = 0;
    for (let one = 0; one < this.elements.length; one++) {
      if (!this.isClosed(one)) continue;
      lit |= 1 << one;
      closed++;
    }
    const word = closed === 0 ? this.words.open : this.words.closed;
    return { word: this.elements.length > 1 && closed > 1 ? `${closed} ${word}` : word, on: closed > 0, lit };
  }
}

/** Where a contact leads: to ground for a net that is active low, to the supply for the others. */
const contactOf = ({ nodes, supplyVolts, activeLow }: Place, at: number): Element =>
  driver(nodes[at] as number, activeLow[at] ? 0 : (supplyVolts[at] as number), OPEN);

export const button = (place: Place): Attached =>
  new Contacts([contactOf(place, 0)], place.figures, { open: 'open', closed: 'pressed' });

export const tippingContact = (place: Place): Attached =>
  new Contacts([contactOf(place, 0)], place.figures, { open: 'open', closed: 'tipped' });

/** Keys that join each row to each column; key 0 is the first row with the first column. */
export function keypad({ nodes, figures }: Place): Attached {
  const rows = Math.min(figures.rows ?? 1, nodes.length - 1);
  const elements = nodes
    .slice(0, rows)
    .flatMap((row) => nodes.slice(rows).map((column) => between(row, column, OPEN)));
  return new Contacts(elements, figures, { open: 'no key', closed: 'pressed' });
}

/** Which contacts of an encoder are closed at its four positions: one changes at a time. */
const QUADRATURE = [
  [false, false],
  [true, false],
  [true, true],
  [false, true],
] as const;
const TURN_MILLISECONDS = 5;

/** Of the state, after that of the contacts: the position, steps to go, and when the next one comes. */
const POSITION = 2 * SIZE;
const TO_GO = POSITION + 1;
const COMES = POSITION + 2;

/** A rotary encoder: two contacts that follow each other. */
class Encoder implements Attached {
  readonly state: Float64Array = new Float64Array(COMES + 1);
  private readonly contacts: Contacts;

  constructor(readonly elements: Element[]) {
    this.contacts = new Contacts(elements, {}, { open: '', closed: '' }, this.state);
    this.state[COMES] = NEVER;
  }

  apply(): void {
    this.contacts.apply();
  }

  act({ value = 1 }: Act, clock: Clock): string | undefined {
    // One click is once through all positions.
    this.state[TO_GO] = (this.state[TO_GO] as number) + Math.round(value) * QUADRATURE.length;
    this.plan(clock);
    return undefined;
  }

  private plan(clock: Clock): void {
    const next = this.state[TO_GO] === 0 ? NEVER : clock.now + TURN_MILLISECONDS * MILLISECOND;
    this.state[COMES] = next;
    if (next !== NEVER) clock.wakeAt(next);
  }

  wake(clock: Clock): void {
    if ((this.state[COMES] as number) > clock.now) return;
    const way = Math.sign(this.state[TO_GO] as number);
    this.state[TO_GO] = (this.state[TO_GO] as number) - way;
    const position = (this.state[POSITION] as number) + way;
    this.state[POSITION] = position;
    const at = ((position % QUADRATURE.length) + QUADRATURE.length) % QUADRATURE.length;
    QUADRATURE[at]?.forEach((closed, one) => {
      this.contacts.move(one, closed, false, clock);
    });
    this.apply();
    this.plan(clock);
  }

  look() {
    const clicks = Math.round((this.state[POSITION] as number) / QUADRATURE.length);
    return { word: `at ${clicks}`, lit: this.contacts.look().lit };
  }
}

export const encoder = (place: Place): Attached => new Encoder([contactOf(place, 0), contactOf(place, 1)]);
