import { isPlain } from '../../derive/resolve/resolve';
import type { Device } from '../../device/device';
import type { Net } from '../../plan/model/types';
import type { Choice } from '../model/model';
import { laneOf } from './couplings';

/** Fewer are no series, and more do not fit into the widest port. */
const LEAST = 3;
const MOST = 32;

/** Nets of equal role whose names count up: LED_0, LED_1, LED_2. */
export function seriesOf<Row extends { item: { net: Net } }>(rows: readonly Row[]): Row[][] {
  const byStem = new Map<string, { number: number; row: Row }[]>();
  for (const row of rows) {
    const { name, role } = row.item.net;
    const match = /^(.*?)(\d{1,3})$/.exec(name);
    if (!match || !isPlain(role)) continue;
    const key = `${match[1]} ${role.kind}`;
    byStem.set(key, [...(byStem.get(key) ?? []), { number: Number(match[2]), row }]);
  }
  return [...byStem.values()].flatMap((list) => {
    const sorted = list.sort((a, b) => a.number - b.number);
    const first = sorted[0]?.number ?? 0;
    const counts = sorted.every((one, index) => one.number === first + index);
    return sorted.length >= LEAST && sorted.length <= MOST && counts ? [sorted.map((one) => one.row)] : [];
  });
}

/** Rows of bits in which every net of a series has a choice. */
export function wholeLanes(device: Device, series: readonly { choices: readonly Choice[] }[]): Set<string> {
  const lanes = new Map<string, number>();
  for (const [place, { choices }] of series.entries())
    for (const choice of choices) {
      const lane = laneOf(device, choice, place);
      if (lane !== undefined && (place === 0 || lanes.get(lane) === place)) lanes.set(lane, place + 1);
    }
  return new Set([...lanes].filter(([, count]) => count === series.length).map(([lane]) => lane));
}
