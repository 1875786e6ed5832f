import type { AccessAction } from '../../derive/accessors/accessors';
import { fullMask } from '../../device/registers/types';
import type { Verb } from '../../plan/model/attachments';
import type { Act } from '../attached/types';
import { act, advance, drivePeripheral } from '../engine/engine';
import { accessorFor, call } from '../engine/firmware';
import type { Bench } from '../engine/sync';
import type { Target } from './names';
import type { Step } from './steps';

/** What steps do to a net: by the firmware, by a peripheral, or from its far end. */

const OPPOSITE: Readonly<Record<string, string>> = { on: 'off', off: 'on', high: 'low', low: 'high' };

/** Drives a net, by whoever drives it: the firmware, a peripheral, or the far end. */
export function setNet(bench: Bench, step: Step): string | undefined {
  const { values, text, line } = step;
  const { setup, state } = bench;
  const target = values.get('net') as Target;
  const to = values.get('to') as string;
  const pulse = values.get('pulse') as number | undefined;
  const fault = setOnce(bench, target, to, text, line, pulse);
  if (fault !== undefined || pulse === undefined) return fault;
  const pad = setup.pads[setup.byNet.get(target.id) ?? -1];
  const isOwn = target.driven || state.states[pad?.index ?? -1]?.output === 'peripheral';
  // The far end goes back by itself.
  if (!isOwn) return undefined;
  const back = OPPOSITE[to] ?? (to === 'toggle' ? 'toggle' : undefined);
  if (back === undefined) return `${to} cannot be for a time`;
  advance(bench, state.time + pulse);
  return setOnce(bench, target, back, text, line, undefined);
}

function setOnce(
  bench: Bench,
  target: Target,
  to: string,
  text: string,
  line: number,
  pulse: number | undefined,
): string | undefined {
  const { setup, state } = bench;
  const at = setup.byNet.get(target.id);
  const pad = at === undefined ? undefined : setup.pads[at];
  if (!pad) return `${target.name} is on no pad`;
  const activeLow = pad.net?.settings.active === 'low';
  if (target.driven && to !== 'free') {
    const accessor = accessorFor(bench, actionFor(to, activeLow), [target.id]);
    if (!accessor) return `the code has no function that drives ${target.name}`;
    call(bench, accessor, 0, text, line);
    return undefined;
  }
  const level = levelFor(to, activeLow);
  if (state.states[pad.index]?.output === 'peripheral') {
    const next = to === 'toggle' ? 1 - (state.peripheral[pad.index] === 1 ? 1 : 0) : level;
    drivePeripheral(bench, pad.index, next, text, line);
    return undefined;
  }
  if (to === 'toggle') return `the firmware does not drive ${target.name}`;
  const verb: Verb = level === 2 ? 'free' : level === 1 ? 'high' : 'low';
  const timed = pulse === undefined ? {} : { nanoseconds: pulse };
  for (const part of setup.partsAt.get(target.id) ?? []) {
    const kind = setup.parts[part]?.attachment.kind;
    if (kind === 'driven-line' || kind === 'bus-partner')
      return act(bench, part, { verb, ...timed }, text, line);
    if (kind === 'button' || kind === 'tipping-contact') {
      const close = (level === 0) === activeLow && level !== 2;
      return act(bench, part, { verb: close ? 'press' : 'release', ...timed }, text, line);
    }
  }
  return `nothing at the far end of ${target.name} drives it`;
}

/** 0 low, 1 high, 2 neither. */
function levelFor(to: string, activeLow: boolean): number {
  if (to === 'free' || to === 'toggle') return 2;
  return to === 'high' || to === (activeLow ? 'off' : 'on') ? 1 : 0;
}

function actionFor(to: string, activeLow: boolean): AccessAction {
  if (to === 'toggle') return 'toggle';
  const asserted = to === 'on' || to === (activeLow ? 'low' : 'high');
  return asserted ? 'set' : 'clear';
}

export function assign(
  bench: Bench,
  target: Target,
  value: number,
  text: string,
  line: number,
): string | undefined {
  const bits = target.nets.length;
  if (value < 0 || value > fullMask(bits))
    return `${value} does not fit into the ${bits === 1 ? 'one bit' : `${bits} bits`} of ${target.name}`;
  const action: AccessAction = target.group ? 'write' : value === 1 ? 'set' : 'clear';
  const accessor = accessorFor(bench, action, target.nets);
  if (!accessor) return `the code has no function that drives ${target.name}`;
  call(bench, accessor, value >>> 0, text, line);
  return undefined;
}

export function onPart(
  bench: Bench,
  target: Target,
  kinds: readonly string[],
  what: Act,
  { text, line }: Step,
): string | undefined {
  const { setup } = bench;
  if (!setup.byNet.has(target.id)) return `${target.name} is on no pad`;
  const part = (setup.partsAt.get(target.id) ?? []).find((at) =>
    kinds.includes(setup.parts[at]?.attachment.kind ?? ''),
  );
  if (part === undefined) return `there is nothing of that kind at the far end of ${target.name}`;
  return act(bench, part, what, text, line);
}

/** Closes or opens a contact; of a keypad the key that two nets name. */
export function contact(bench: Bench, verb: 'press' | 'release' | 'tip', step: Step): string | undefined {
  const { setup } = bench;
  const { values } = step;
  const [net, other] = [values.get('net') as Target, values.get('other') as Target | undefined];
  const time = values.get('time') as number | undefined;
  const what: Act = {
    verb,
    bounces: values.get('bounce') !== undefined,
    ...(time === undefined ? {} : { nanoseconds: time }),
  };
  if (!other) {
    const kinds = ['button', 'tipping-contact', 'driven-line', 'bus-partner'];
    return onPart(bench, net, kinds, what, step);
  }
  const part = (setup.partsAt.get(net.id) ?? []).find((at) => {
    const { attachment } = setup.parts[at] ?? {};
    return attachment?.kind === 'keypad' && attachment.nets.includes(other.id);
  });
  const keypad = part === undefined ? undefined : setup.parts[part]?.attachment;
  if (part === undefined || !keypad) return `${net.name} and ${other.name} are not of one keypad`;
  const rows = Math.min(keypad.figures?.rows ?? 4, keypad.nets.length - 1);
  const places = [keypad.nets.indexOf(net.id), keypad.nets.indexOf(other.id)].sort((a, b) => a - b);
  const [row, column] = places as [number, number];
  if (row >= rows || column < rows) return `${net.name} and ${other.name} are not a row and a column`;
  return act(
    bench,
    part,
    { ...what, value: row * (keypad.nets.length - rows) + (column - rows) },
    step.text,
    step.line,
  );
}
