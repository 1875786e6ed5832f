import { hexText } from '../base/text/hex';
import { hasWords, rankOf, wordsOf } from '../base/text/search-words';
import { offerOf } from '../device/offers';
import { labelsByPad } from '../plan/labels';
import { type NetId, roleText } from '../plan/model/types';
import type { Derived } from './derive';

/** One thing that a search found, and what selecting it selects. */
export interface Hit {
  kind: 'net' | 'pad' | 'bits';
  id: NetId | string;
  title: string;
  /** Why it was found: role, signal, pin, alias. */
  detail: string;
  rank: number;
}

const LIMIT = 40;

/**
 * Finds nets, pads, pins, signals, aliases and the plan's registers by any part of their names, or by several words in any order (`uart
 * tx`, `pin 5`, `debug`, `lamp output`); exact and leading matches first.
 */
export function search(derived: Derived, text: string): Hit[] {
  const words = wordsOf(text);
  if (words.length === 0) return [];
  const { device, pkg, plan } = derived;
  const hits: Hit[] = [];
  const labels = labelsByPad(plan);
  for (const one of derived.resolved) {
    const { net } = one;
    const circuit = plan.circuits.find((candidate) => candidate.id === net.circuit)?.name ?? '';
    const names = [net.name, one.fn?.signal ?? '', net.note ?? '', circuit, ...Object.values(net.far ?? {})];
    const rank = rankOf(text, names, [roleText(net.role), net.placement?.pad]);
    if (rank === undefined) continue;
    const seat = net.placement ? `on ${net.placement.pad}` : 'not placed';
    const detail = [circuit, one.fn?.signal, seat].filter(Boolean).join(' · ');
    hits.push({ kind: 'net', id: net.id, title: net.name, detail, rank });
  }
  const pins = device.pinsOf.get(pkg.id);
  for (const pad of device.description.pads) {
    const numbers = pins?.get(pad.id) ?? [];
    const offered = offerOf(device, pkg)
      .of(pad.id)
      .filter((fn) => hasWords(words, [fn.signal]));
    const label = labels.get(pad.id);
    const names = [
      pad.id,
      ...(pad.aliases ?? []),
      ...(label === undefined ? [] : [label]),
      ...(numbers.length === 1 ? numbers : []),
      ...numbers.map((number) => `pin ${number}`),
      ...(pad.boot ? [pad.boot.kind] : []),
    ];
    const own = rankOf(text, names, [`pad ${pad.kind}`, pad.port && `port ${pad.port}`, pad.boot?.note]);
    const rank =
      own ??
      (offered.length > 0
        ? 3 +
          (rankOf(
            text,
            offered.map((fn) => fn.signal),
          ) ?? 0)
        : undefined);
    if (rank === undefined) continue;
    const seats = derived.byPad.get(pad.id) ?? [];
    const nets = seats.map((one) => one.net.name).join(', ');
    const detail = [
      numbers.length > 0 ? `pin ${numbers.join(', ')}` : 'not in this package',
      pad.aliases?.join(', '),
      label,
      own === undefined ? offered.map((fn) => fn.signal).join(', ') : undefined,
      nets || (pad.kind === 'io' ? 'free' : pad.kind),
    ]
      .filter(Boolean)
      .join(' · ');
    // Found by what it could carry: first where that is, then where it can be had for nothing.
    const carries = seats.some((one) => one.fn !== undefined && hasWords(words, [one.fn.signal]));
    const cost =
      own !== undefined || carries
        ? 0
        : (numbers.length === 0 ? 0.4 : 0) + (pad.boot ? 0.2 : 0) + (seats.length > 0 ? 0.1 : 0) + 0.05;
    hits.push({ kind: 'pad', id: pad.id, title: pad.id, detail, rank: rank + cost });
  }
  for (const { register, planned } of derived.lowered.image) {
    const address = hexText(register.address, register.address > 0xffff ? 32 : 16);
    const rank = rankOf(text, [register.name, address], ['register', register.title]);
    if (rank === undefined) continue;
    const detail = `${address} · planned ${hexText(planned, register.bits)}`;
    // Nets and pads first: a letter finds those of that name.
    hits.push({ kind: 'bits', id: register.name, title: register.name, detail, rank: rank + 0.6 });
  }
  return hits.sort((a, b) => a.rank - b.rank).slice(0, LIMIT);
}
