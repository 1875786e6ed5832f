import { ExpressionError, parseExpression, variablesOf } from '../../description/language/expression';
import type { NetSort, Slot } from './forms';
import { type Names, type Target, targetOf } from './names';
import type { Captured } from './steps';
import type { Word } from './words';

/** What would be understood at a place: words, or a kind of thing. */
export type Expected =
  | { word: string }
  | {
      kind: Exclude<Slot['slot'], 'word' | 'choice' | 'maybe' | 'either'>;
      which?: NetSort | 'driven' | 'read';
    };

export interface Failure {
  at: number;
  expected: Expected[];
  /** Something more exact than what was expected. */
  message?: string;
}

/** Keeps what was expected at the furthest place that was reached. */
export function fail(failure: Failure, at: number, expected: Expected, message?: string): void {
  if (at < failure.at) return;
  if (at > failure.at) {
    failure.at = at;
    failure.expected = [];
    failure.message = undefined as never;
  }
  failure.expected.push(expected);
  if (message !== undefined) failure.message = message;
}

interface State {
  at: number;
  values: Map<string, Captured>;
  stepsFrom?: number;
}

const NANOSECONDS: Readonly<Record<string, number>> = {
  ns: 1,
  us: 1e3,
  µs: 1e3,
  μs: 1e3,
  ms: 1e6,
  s: 1e9,
  min: 60e9,
};
const VOLTS: Readonly<Record<string, number>> = { V: 1, mV: 1e-3 };
const HERTZ: Readonly<Record<string, number>> = { Hz: 1, kHz: 1e3, MHz: 1e6 };
/** An hour; no play is longer. */
const LONGEST_NANOSECONDS = 3600e9;

export class Matcher {
  constructor(
    private readonly line: string,
    private readonly words: readonly Word[],
    private readonly names: Names,
    private readonly variables: ReadonlySet<string>,
    private readonly failure: Failure,
  ) {}

  /** All ways in which slots can be read from a place. */
  *sequence(slots: readonly Slot[], state: State): Generator<State> {
    const [first, ...rest] = slots;
    if (!first) {
      yield state;
      return;
    }
    for (const next of this.one(first, state)) yield* this.sequence(rest, next);
  }

  private *one(slot: Slot, state: State): Generator<State> {
    const word = this.words[state.at];
    switch (slot.slot) {
      case 'maybe':
        yield* this.sequence(slot.of, state);
        yield state;
        return;
      case 'either':
        for (const slots of slot.of) yield* this.sequence(slots, state);
        return;
      case 'word':
        if (word && word.kind !== 'name' && word.text === slot.text) yield { ...state, at: state.at + 1 };
        else fail(this.failure, state.at, { word: slot.text });
        return;
      case 'choice':
        // `over-current` is one word.
        for (const text of slot.of) {
          if (word && word.kind !== 'name' && word.text === text) yield this.with(state, slot.as, text, 1);
          else fail(this.failure, state.at, { word: text });
        }
        return;
      case 'net':
      case 'target':
        yield* this.named(slot, state);
        return;
      case 'time':
        yield* this.quantity(slot, state, NANOSECONDS, LONGEST_NANOSECONDS);
        return;
      case 'volts':
        yield* this.quantity(slot, state, VOLTS, 1000);
        return;
      case 'hertz':
        yield* this.quantity(slot, state, HERTZ, 1e10);
        return;
      case 'percent':
        yield* this.quantity(slot, state, { '%': 1 }, 100);
        return;
      case 'number':
        yield* this.number(slot, state);
        return;
      case 'value':
        yield* this.value(slot, state);
        return;
      case 'name':
        if (word?.kind === 'word') yield this.with(state, slot.as, word.text, 1);
        else fail(this.failure, state.at, { kind: slot.slot });
        return;
      case 'stage':
        yield* this.listed(slot, state, this.names.stages);
        return;
      case 'routine':
        yield* this.listed(slot, state, this.names.routines);
        return;
      case 'trial':
        yield* this.trial(slot, state);
        return;
      case 'registers':
        yield* this.registers(slot, state);
        return;
      case 'steps':
        yield {
          ...state,
          at: this.words.length,
          ...(word ? { stepsFrom: word.from } : {}),
        };
        return;
    }
  }

  private with(state: State, as: string, value: Captured, words: number): State {
    return { ...state, at: state.at + words, values: new Map(state.values).set(as, value) };
  }

  private *named(slot: Extract<Slot, { slot: 'net' | 'target' }>, state: State): Generator<State> {
    const word = this.words[state.at];
    const expected: Expected = { kind: slot.slot, which: slot.which };
    if (!word || word.kind === 'number' || word.kind === 'symbol') {
      fail(this.failure, state.at, expected);
      return;
    }
    const target = targetOf(this.names, word.text, word.byId === true);
    if (!target || (slot.slot === 'net' && target.group)) {
      fail(this.failure, state.at, expected);
      return;
    }
    const lack = this.lackOf(slot, target);
    // Where an equals sign follows, nothing but this can be meant.
    const named = slot.slot === 'target' && this.words[state.at + 1]?.text === '=';
    const at = state.at + (named ? 1 : 0);
    if (lack !== undefined) fail(this.failure, at, expected, `${target.name} ${lack}`);
    else yield this.with(state, slot.as, target, 1);
  }

  private lackOf(slot: Extract<Slot, { slot: 'net' | 'target' }>, target: Target): string | undefined {
    if (slot.slot === 'target') {
      if (slot.which === 'driven') return target.driven ? undefined : 'is nothing that the firmware drives';
      return target.read ? undefined : 'is nothing that the firmware reads';
    }
    const sorts = this.names.sorts.get(target.id);
    if (slot.which === 'any' || sorts?.has(slot.which)) return undefined;
    return {
      contact: 'has no contact or line at its far end',
      button: 'has no contact at its far end',
      encoder: 'has no encoder at its far end',
      analog: 'has no analog source at its far end',
      interrupt: 'does not interrupt',
      wake: 'does not wake the part',
    }[slot.which];
  }

  private *quantity(
    slot: Extract<Slot, { slot: 'time' | 'volts' | 'hertz' | 'percent' }>,
    state: State,
    units: Readonly<Record<string, number>>,
    most: number,
  ): Generator<State> {
    const [number, unit] = [this.words[state.at], this.words[state.at + 1]];
    if (number?.kind !== 'number') {
      fail(this.failure, state.at, { kind: slot.slot });
      return;
    }
    const factor = unit && Object.hasOwn(units, unit.text) ? units[unit.text] : undefined;
    if (factor === undefined) {
      for (const one of Object.keys(units)) fail(this.failure, state.at + 1, { word: one });
      return;
    }
    const value = Number(number.text) * factor;
    if (value > most)
      fail(this.failure, state.at, { kind: slot.slot }, `${number.text} ${unit?.text} is too much`);
    else yield this.with(state, slot.as, value, 2);
  }

  private *number(slot: Extract<Slot, { slot: 'number' }>, state: State): Generator<State> {
    const minus = this.words[state.at]?.text === '-' ? 1 : 0;
    const word = this.words[state.at + minus];
    const value = word?.kind === 'number' ? Number(word.text) * (minus ? -1 : 1) : Number.NaN;
    if (Number.isInteger(value) && value >= slot.least && value <= slot.most) {
      yield this.with(state, slot.as, value, 1 + minus);
      return;
    }
    const range = `a whole number from ${slot.least} to ${slot.most} belongs here`;
    fail(this.failure, state.at, { kind: 'number' }, word?.kind === 'number' ? range : undefined);
  }

  /** The longest run of words that is a value. */
  private *value(slot: Extract<Slot, { slot: 'value' }>, state: State): Generator<State> {
    const first = this.words[state.at];
    if (!first) {
      fail(this.failure, state.at, { kind: 'value' });
      return;
    }
    let message: string | undefined;
    for (let end = this.words.length; end > state.at; end--) {
      const text = this.line.slice(first.from, (this.words[end - 1] as Word).to);
      try {
        const value = parseExpression(text);
        const unknown = [...variablesOf(value)].find((name) => !this.variables.has(name));
        if (unknown === undefined) {
          yield this.with(state, slot.as, value, end - state.at);
          return;
        }
        message ??= `${unknown} stands for no number here`;
      } catch (error) {
        if (!(error instanceof ExpressionError)) throw error;
        message ??= error.message;
      }
    }
    fail(this.failure, state.at, { kind: 'value' }, message);
  }

  private *listed(
    slot: Extract<Slot, { slot: 'stage' | 'routine' }>,
    state: State,
    list: readonly string[],
  ): Generator<State> {
    const word = this.words[state.at];
    if (word && list.includes(word.text)) yield this.with(state, slot.as, word.text, 1);
    else fail(this.failure, state.at, { kind: slot.slot });
  }

  private *trial(slot: Extract<Slot, { slot: 'trial' }>, state: State): Generator<State> {
    const word = this.words[state.at];
    const found =
      word && this.names.trials.find((one) => (word.byId ? one.id === word.text : one.name === word.text));
    if (found) yield this.with(state, slot.as, found.id, 1);
    else fail(this.failure, state.at, { kind: 'trial' });
  }

  /** `PA.USE = 0x3F, PA.OUT = 0`: up to the end of the line. */
  private *registers(slot: Extract<Slot, { slot: 'registers' }>, state: State): Generator<State> {
    const values = new Map<string, number>();
    for (let at = state.at; ; at += 4) {
      const [name, equals, number, comma] = this.words.slice(at, at + 4);
      if (!name || !this.names.registers.has(name.text)) {
        fail(
          this.failure,
          at,
          { kind: 'registers' },
          name && `the part has no register ${name.text} that holds anything`,
        );
        return;
      }
      if (equals?.text !== '=' || number?.kind !== 'number') {
        fail(
          this.failure,
          equals?.text === '=' ? at + 2 : at + 1,
          equals?.text === '=' ? { kind: 'value' } : { word: '=' },
        );
        return;
      }
      values.set(name.text, Number(number.text));
      if (comma?.text === ',') continue;
      yield { ...state, at: at + 3, values: new Map(state.values).set(slot.as, values) };
      return;
    }
  }
}

const KIND_WORDS: Readonly<Record<Exclude<Expected, { word: string }>['kind'], string>> = {
  net: 'a net',
  target: 'a net or bus',
  time: 'a time like 20 ms',
  volts: 'a voltage like 1.2 V',
  hertz: 'a rate like 50 Hz',
  percent: 'a percentage like 40 %',
  number: 'a whole number',
  value: 'a value like 0x3C',
  name: 'a name',
  trial: 'the name of a trial in quotes',
  routine: 'a routine of the code',
  stage: 'a stage of the initialisation',
  steps: 'steps',
  registers: 'a register and its value, like PA.OUT = 0x10',
};

/** "a net, on or off would be understood here". */
export function expectedText(expected: readonly Expected[]): string {
  const texts = [...new Set(expected.map((one) => ('word' in one ? one.word : KIND_WORDS[one.kind])))];
  const shown = texts.slice(0, 10);
  const more = texts.length > shown.length ? ', …' : '';
  return `here could be ${shown.join(', ')}${more}`;
}
