import { distinctName, identifierFrom } from '../../../base/text/identifier';
import type { Derived } from '../../../derive/derive';
import type { ResolvedNet } from '../../../derive/resolve/resolve';
import { latchLevel, prefixOf, settingKeysFor } from '../../../derive/resolve/resolve';
import { meantBy } from '../../../description/meanings';
import { splitSignal } from '../../../description/types';
import type { Device } from '../../../device/device';
import { roleText } from '../../../plan/model/types';
import { identityLines, missingText } from '../identity';
import type { Target } from '../types';
import {
  blockComment,
  comment,
  type DtsCode,
  decimal,
  dts,
  join,
  label,
  nodeName,
  stringLiteral,
} from './writer';

/**
 * Devicetree source: the pins of each circuit as a pin-control state with the generic properties, and the names of lines for each
 * port. What drivers it belongs to, the user's own tree says.
 */
export const devicetreeTarget: Target = {
  id: 'devicetree',
  title: 'Devicetree',
  language: 'devicetree',
  seal: (text) => dts`${comment(text)}\n`,
  files(derived) {
    const file = prefixOf(derived.plan);
    return [{ path: `${file}.dts`, initialises: true, print: () => ({ text: printTree(derived, file) }) }];
  },
};

const INDENT = dts`\t`;
const indented = (lines: readonly DtsCode[]): DtsCode[] =>
  lines.map((line) => (line === '' ? line : dts`${INDENT}${line}`));

function printTree(derived: Derived, file: string): DtsCode {
  const { device } = derived;
  const missing = missingText(derived);
  const maker = identifierFrom(device.description.maker).toLowerCase().replaceAll('_', '') || 'maker';
  const part = identifierFrom(device.description.id).toLowerCase().replaceAll('_', '-') || 'part';
  const lines: DtsCode[] = [
    dts`/dts-v1/;`,
    dts``,
    ...blockComment(identityLines(derived, `${file}.dts`, 'pin control and names of lines')),
    ...(missing ? blockComment(missing.lines) : []),
    // There is no way to refuse but a tree that is none.
    ...(missing?.refusal === undefined ? [] : [dts`/incomplete/ ${stringLiteral(missing.refusal)};`]),
    dts``,
    dts`/ {`,
    ...indented([
      dts`${label(file, 'pins')}: pin-controller {`,
      ...indented([
        dts`compatible = ${stringLiteral(`${maker},${part}-pins`)};`,
        ...printStates(derived, file),
      ]),
      dts`};`,
      ...printPorts(derived, file),
    ]),
    dts`};`,
  ];
  return dts`${join(lines, dts`\n`)}\n`;
}

/** A state for each circuit, with a node for each of its pins; nets without a circuit have one of their own. */
function printStates(derived: Derived, file: string): DtsCode[] {
  const placed = derived.resolved.filter((one) => one.planned && one.pins.length > 0);
  const taken = new Set<string>();
  const states = [
    ...derived.plan.circuits.map(({ id, name }) => ({ id: id as string | undefined, name })),
    { id: undefined, name: 'others' },
  ];
  return states.flatMap(({ id, name }) => {
    const own = placed.filter((one) => (one.net.circuit ?? undefined) === id);
    if (own.length === 0) return [];
    const state = distinctName(identifierFrom(name, 24).toLowerCase() || 'circuit', taken);
    const names = new Set<string>();
    return [
      dts``,
      dts`${label(file, state)}: ${nodeName(`${state}_state`)} {`,
      ...indented(own.flatMap((one) => printPin(derived.device, one, names))),
      dts`};`,
    ];
  });
}

function printPin(device: Device, one: ResolvedNet, names: Set<string>): DtsCode[] {
  const { net, pad } = one;
  const name = distinctName(identifierFrom(net.name, 24).toLowerCase() || 'net', names);
  const about = `${net.name}: ${roleText(net.role)}; pin ${one.pins.join(', ')}`.replaceAll('·', '/');
  return [
    comment(about),
    dts`${nodeName(`${name}_pins`)} {`,
    ...indented([
      dts`pins = ${stringLiteral(pad?.id ?? '')};`,
      ...propertiesOf(device, one).map(({ property, value }) =>
        value === undefined ? dts`${property};` : dts`${property} = ${value};`,
      ),
    ]),
    dts`};`,
  ];
}

interface Property {
  property: DtsCode;
  value?: DtsCode;
}

const PULLS: Record<string, DtsCode> = {
  none: dts`bias-disable`,
  up: dts`bias-pull-up`,
  down: dts`bias-pull-down`,
  keeper: dts`bias-bus-hold`,
};
const TYPES: Record<string, DtsCode> = {
  'push-pull': dts`drive-push-pull`,
  'open-drain': dts`drive-open-drain`,
  'open-source': dts`drive-open-source`,
};

/** Settings as the generic pin configuration properties; those that have none are left to the part's own driver. */
function propertiesOf(device: Device, { net, fn, planned }: ResolvedNet): Property[] {
  const all = planned?.settings.values ?? {};
  const { mode } = all;
  const values = Object.fromEntries(settingKeysFor(device, { net, fn }).map((key) => [key, all[key]]));
  const list: Property[] = [];
  const [instance = ''] = splitSignal(fn?.signal ?? '');
  const name = mode === 'function' ? instance.toLowerCase() : mode === 'analog' ? 'analog' : 'gpio';
  list.push({ property: dts`function`, value: stringLiteral(name) });
  const pull = PULLS[meantBy(device.description.recipe, 'pull', values.pull) ?? ''];
  if (pull) list.push({ property: pull });
  const type = TYPES[meantBy(device.description.recipe, 'outputType', values.outputType) ?? ''];
  if (type && (mode === 'output' || mode === 'function')) list.push({ property: type });
  const current = /^(\d+(?:\.\d+)?)\s*(mA|uA|µA)$/.exec(values.drive ?? '');
  if (current) {
    const micro = Math.round(Number(current[1]) * (current[2] === 'mA' ? 1000 : 1));
    const whole = micro % 1000 === 0;
    list.push({
      property: whole ? dts`drive-strength` : dts`drive-strength-microamp`,
      value: dts`<${decimal(whole ? micro / 1000 : micro)}>`,
    });
  }
  if (/schmitt|hysteresis/i.test(values.inputBuffer ?? ''))
    list.push({ property: dts`input-schmitt-enable` });
  if (mode === 'input') list.push({ property: dts`input-enable` });
  if (mode === 'output') {
    list.push({ property: latchLevel(net.settings) === 'high' ? dts`output-high` : dts`output-low` });
  }
  return list;
}

/** A node for each port, with the names of its lines in the order of their bits. */
function printPorts(derived: Derived, file: string): DtsCode[] {
  const { device } = derived;
  const ports = new Map<string, string[]>();
  for (const pad of device.description.pads) {
    if (pad.port === undefined || pad.bit === undefined) continue;
    const lines = ports.get(pad.port) ?? [];
    lines[pad.bit] = derived.byPad.get(pad.id)?.[0]?.net.name ?? '';
    ports.set(pad.port, lines);
  }
  const taken = new Set<string>();
  return [...ports].flatMap(([port, sparse]) => {
    const lines = Array.from(sparse, (name) => name ?? '');
    if (lines.every((name) => name === '')) return [];
    const name = distinctName(identifierFrom(port, 20).toLowerCase() || 'port', taken);
    return [
      dts``,
      dts`${label(file, 'port', name)}: ${nodeName(`port_${name}`)} {`,
      ...indented([
        dts`gpio-controller;`,
        dts`#gpio-cells = <2>;`,
        dts`gpio-line-names = ${join(lines.map(stringLiteral), dts`, `)};`,
      ]),
      dts`};`,
    ];
  });
}
