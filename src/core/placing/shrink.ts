import { examine } from './examine';
import type { Element, Model } from './model';
import { allBut } from './trial';

/** Elements to begin with: those of the nets that the assignment could not seat, when they alone cannot be seated. */
export function startOf(
  model: Model,
  all: readonly number[],
  stuck: readonly number[] | undefined,
): number[] {
  let start = [...all];
  let items = stuck;
  for (let round = 0; round < 4 && items && items.length > 0; round++) {
    const nets = new Set(items.map((at) => model.items[at]?.net));
    const fewer = start.filter((index) => model.elements[index]?.nets.every((net) => nets.has(net)));
    if (fewer.length >= start.length) break;
    const result = examine(model, new Set(fewer));
    if (result.possible !== false) break;
    start = fewer;
    items = result.stuck;
  }
  return start;
}

/** Orders in which elements are tried to be left out: what is least telling first. */
export function orders(model: Model, start: readonly number[]): number[][] {
  const rank: Record<Element['kind'], number> = { tie: 1, setting: 2, demand: 3, held: 4, net: 0 };
  const byRank = [...start].sort(
    (a, b) => rank[model.elements[a]?.kind ?? 'net'] - rank[model.elements[b]?.kind ?? 'net'] || a - b,
  );
  const homes = (index: number): number => {
    const element = model.elements[index];
    return element?.kind === 'net'
      ? (model.items.find((one) => one.element === index)?.choices.length ?? 0)
      : 0;
  };
  const byHomes = [...start].sort((a, b) => homes(b) - homes(a) || a - b);
  return [byHomes, byRank, [...byRank].reverse()];
}

/** Leaves out what can be left out, in chunks first; what stays is needed, each and every one. */
export function shrink(
  model: Model,
  start: readonly number[],
  order: readonly number[],
  gaveUp: () => void,
): number[] {
  const kept = new Set(start);
  let size = Math.max(1, Math.floor(order.length / 2));
  let queue = [...order];
  for (;;) {
    const later: number[] = [];
    for (let at = 0; at < queue.length; at += size) {
      const chunk = queue.slice(at, at + size).filter((index) => kept.has(index));
      if (chunk.length === 0) continue;
      const left = allBut(model, chunk, kept);
      const { possible } = examine(model, left);
      if (possible === undefined) gaveUp();
      if (possible === false) {
        for (const index of [...kept]) if (!left.has(index)) kept.delete(index);
      } else later.push(...chunk);
    }
    queue = later;
    if (size === 1) break;
    size = Math.max(1, Math.floor(size / 2));
  }
  return [...kept].sort((a, b) => a - b);
}
