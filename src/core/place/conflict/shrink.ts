import { append } from '../../base/lists';
import type { Model, NetItem, Requirement } from '../model/model';
import { examine } from './examine';
import { allBut } from './question';

/** Requirements to begin with: those of the nets that the assignment could not seat, when they alone cannot be seated. */
export function startOf(
  model: Model,
  all: readonly number[],
  stuck: readonly NetItem[] | undefined,
): number[] {
  let start = [...all];
  let items = stuck;
  for (let round = 0; round < 4 && items && items.length > 0; round++) {
    const nets = new Set(items.map((one) => one.net));
    const fewer = start.filter((index) => model.requirements[index]?.nets.every((net) => nets.has(net)));
    if (fewer.length >= start.length) break;
    const result = examine(model, new Set(fewer));
    if (result.possible !== false) break;
    start = fewer;
    items = result.stuck;
  }
  return start;
}

/** Orders in which requirements are tried to be left out: what is least telling first. */
export function orders(model: Model, start: readonly number[]): number[][] {
  const rank: Record<Requirement['kind'], number> = {
    constraint: 1,
    setting: 2,
    demand: 3,
    locked: 4,
    net: 0,
  };
  const byRank = [...start].sort(
    (a, b) =>
      rank[model.requirements[a]?.kind ?? 'net'] - rank[model.requirements[b]?.kind ?? 'net'] || a - b,
  );
  const alternatives = (index: number): number => {
    const requirement = model.requirements[index];
    return requirement?.kind === 'net'
      ? (model.items.find((one) => one.requirement === index)?.choices.length ?? 0)
      : 0;
  };
  const byAlternatives = [...start].sort((a, b) => alternatives(b) - alternatives(a) || a - b);
  return [byAlternatives, byRank, [...byRank].reverse()];
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
      } else append(later, chunk);
    }
    queue = later;
    if (size === 1) break;
    size = Math.max(1, Math.floor(size / 2));
  }
  return [...kept].sort((a, b) => a - b);
}
