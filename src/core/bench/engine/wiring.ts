import type { Device } from '../../device/device';
import { slotMask } from '../../device/fields/fields';
import { maskOf } from '../../device/registers/types';
import type { BoardAttachment } from '../attached/defaults';
import type { Attached } from '../attached/types';
import type { Element } from '../circuit/elements';

import type { BenchPad } from './bench-pad';
/** Something attached, and its place. */
export interface BenchPart {
  attachment: BoardAttachment;
  attached: Attached;
  /** Pads of its nets, in the order of its poles. */
  pads: readonly number[];
  /** Its state at power-up. */
  atStart: Float64Array;
}

/** Nodes that are joined to each other by something, and all elements at them. */
export interface Component {
  nodes: readonly number[];
  elements: readonly Element[];
  parts: readonly number[];
  /** Something in it stores charge. */
  charged: boolean;
}

/** Pads that a word of memory says something of: all bits that do, and for each bit its pads. */
export interface Watchers {
  mask: number;
  byBit: readonly (readonly number[])[];
}

/** Nodes that elements join belong together, whether those conduct at the moment or not. */
export function componentsOf(
  pads: readonly BenchPad[],
  parts: readonly BenchPart[],
  fixed: readonly Element[],
): { components: Component[]; componentOf: Int32Array } {
  const leader = Int32Array.from(pads, (_, index) => index);
  const find = (node: number): number => {
    let at = node;
    while (leader[at] !== at) at = leader[at] as number;
    return at;
  };
  const elements = [
    ...pads.flatMap(({ stage, pull }) => [stage, pull]),
    ...parts.flatMap(({ attached }) => [...attached.elements]),
    ...fixed,
  ];
  for (const { a, b } of elements) if (a >= 0 && b >= 0) leader[find(a)] = find(b);
  // What is one part is looked at together.
  for (const { pads: nodes } of parts)
    for (const node of nodes) leader[find(nodes[0] as number)] = find(node);
  const numbers = new Map<number, number>();
  const componentOf = new Int32Array(pads.length);
  const components: { nodes: number[]; elements: Element[]; parts: number[]; charged: boolean }[] = [];
  for (const { index, farads } of pads) {
    const root = find(index);
    let number = numbers.get(root);
    if (number === undefined) {
      number = components.length;
      numbers.set(root, number);
      components.push({ nodes: [], elements: [], parts: [], charged: false });
    }
    componentOf[index] = number;
    const component = components[number];
    component?.nodes.push(index);
    if (component && farads > 0) component.charged = true;
  }
  for (const one of elements)
    components[componentOf[one.a >= 0 ? one.a : one.b] as number]?.elements.push(one);
  parts.forEach(({ pads: nodes }, index) => {
    components[componentOf[nodes[0] as number] as number]?.parts.push(index);
  });
  return { components, componentOf };
}

/** Who looks at which word of memory. */
export interface Watched {
  /** For each word of memory the pads that it says something of, and by which bits. */
  watchers: readonly (Watchers | undefined)[];
  /** Pads whose level is shown inverted by a bit in the word. */
  inverters: ReadonlyMap<number, readonly number[]>;
  /** Pads whose interrupt flag is in the word. */
  flags: ReadonlyMap<number, readonly number[]>;
}

export function watchersOf(device: Device, pads: readonly BenchPad[]): Watched {
  const watchers: ({ pad: number; mask: number }[] | undefined)[] = Array.from({
    length: device.registers.words,
  });
  const watch = (word: number, pad: number, mask: number): void => {
    const list = watchers[word] ?? [];
    watchers[word] = list;
    const own = list.find((one) => one.pad === pad);
    if (own) own.mask |= mask;
    else list.push({ pad, mask });
  };
  const inverters = new Map<number, number[]>();
  const flags = new Map<number, number[]>();
  for (const { index, reader, shows, flag } of pads) {
    const flagWord = flag?.register.storage?.word;
    if (flagWord !== undefined) flags.set(flagWord, [...(flags.get(flagWord) ?? []), index]);
    for (const slot of reader.slots)
      if (slot.register.storage)
        watch(slot.register.storage.word, index, slotMask(slot) << slot.register.storage.shift);
    for (const { by } of shows) {
      const storage = by?.register.storage;
      if (!by || !storage) continue;
      watch(storage.word, index, maskOf(by.bit, 1) << storage.shift);
      inverters.set(storage.word, [...(inverters.get(storage.word) ?? []), index]);
    }
  }
  return {
    watchers: watchers.map(
      (list) =>
        list && {
          mask: list.reduce((sum, one) => sum | one.mask, 0),
          byBit: Array.from({ length: 32 }, (_, bit) =>
            list.filter(({ mask }) => ((mask >>> bit) & 1) === 1).map(({ pad }) => pad),
          ),
        },
    ),
    inverters,
    flags,
  };
}
