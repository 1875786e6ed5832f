import { readdirSync } from 'node:fs';
import highsLoader from 'highs';
import { formatProblems, type Result } from '@/core/base/result';
import type { Package } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { DEFAULT_NODES, placePlan } from '@/core/place/place';
import type { ChoiceProblem } from '@/core/place/solver/problem';
import { solve } from '@/core/place/solver/solve';
import { readDeviceFolder } from '@/files/devices';
import { impossibleBoard, randomBoard } from '@/testing/instances';
import { median } from './median';

/**
 * The placer on seeded random boards for every package of every family, and beside it a general solver for integer programs on
 * the same problems. Ours is timed whole (plan in, placements out), and once more on the bare problem as the other one is,
 * which reads it as text.
 */
const must = <T>(result: Result<T>): T => {
  if (!result.ok) throw new Error(formatProblems(result.problems));
  return result.value;
};

const BOARDS = 5;
/** Seconds for the other solver on one board. */
const LIMIT = 60;

const padsOf = (device: Device, pkg: Package): number =>
  [...(device.pinsOf.get(pkg.id)?.keys() ?? [])].filter((pad) => device.pads.get(pad)?.kind === 'io').length;

/** The problem as an integer program: one variable an option, one a group and key, one a mode and value. */
function program({ items, slots, resources, equals, differs }: ChoiceProblem): string {
  const cost: string[] = [];
  const rows: string[] = [];
  const names: string[] = [];
  const bySlot: string[][] = Array.from({ length: slots }, () => []);
  const byResource: string[][] = Array.from({ length: resources }, () => []);
  const byKey = new Map<string, string[]>();
  const modes = new Map<number, Set<number>>();
  const positions = equals.map(
    ({ items: members, positions: at }) => new Map(members.map((item, i) => [item, at[i] ?? 0])),
  );
  for (const [item, { options }] of items.entries()) {
    const own = options.map((option, index) => {
      const name = `x${item}_${index}`;
      names.push(name);
      if (option.cost !== 0) cost.push(`${option.cost} ${name}`);
      bySlot[option.slot]?.push(name);
      for (const resource of option.resources) byResource[resource]?.push(name);
      for (const [equal, members] of positions.entries()) {
        const position = members.get(item);
        if (position === undefined) continue;
        const key = `${equal} ${item} ${option.keys[position]}`;
        byKey.set(key, [...(byKey.get(key) ?? []), name]);
      }
      for (const { mode, value } of option.modes ?? []) {
        modes.set(mode, (modes.get(mode) ?? new Set()).add(value));
        rows.push(`${name} - z${mode}_${value} <= 0`);
      }
      return name;
    });
    rows.push(`${own.join(' + ')} = 1`);
  }
  for (const list of [...bySlot, ...byResource]) if (list.length > 1) rows.push(`${list.join(' + ')} <= 1`);
  for (const [equal, { items: members, keys }] of equals.entries()) {
    for (let key = 0; key < keys; key++) {
      names.push(`y${equal}_${key}`);
      for (const item of members) {
        const own = byKey.get(`${equal} ${item} ${key}`) ?? [];
        rows.push(`${own.join(' + ')}${own.length > 0 ? ' ' : ''}- y${equal}_${key} = 0`);
      }
    }
  }
  for (const members of differs) {
    const most = Math.max(...members.map((one) => equals[one]?.keys ?? 0));
    for (let key = 0; key < most; key++) {
      const own = members.filter((one) => key < (equals[one]?.keys ?? 0)).map((one) => `y${one}_${key}`);
      if (own.length > 1) rows.push(`${own.join(' + ')} <= 1`);
    }
  }
  for (const [mode, values] of modes) {
    const own = [...values].map((value) => `z${mode}_${value}`);
    names.push(...own);
    rows.push(`${own.join(' + ')} <= 1`);
  }
  // The format allows no line of any length.
  const wrap = (text: string): string => text.replace(/((?:\S+ ){24})/g, '$1\n');
  return [
    'Minimize',
    wrap(`obj: ${cost.join(' + ') || '0 x0_0'}`),
    'Subject To',
    ...rows.map((row, index) => wrap(`r${index}: ${row}`)),
    'Binary',
    wrap(names.join(' ')),
    'End',
  ].join('\n');
}

export async function benchPlacing(): Promise<void> {
  const highs = await highsLoader();
  const rows: Record<string, string | number>[] = [];
  const ratios: number[] = [];
  const wholeRatios: number[] = [];
  const failures: string[] = [];
  for (const folder of readdirSync('devices').sort()) {
    const device = must(readDeviceFolder(`devices/${folder}`));
    for (const pkg of device.packages.values()) {
      const pads = padsOf(device, pkg);
      const count = pads > 200 ? 200 : Math.min(60, Math.floor(pads * 0.8));
      const ours: number[] = [];
      const bare: number[] = [];
      const theirs: number[] = [];
      const explained: number[] = [];
      let proven = 0;
      let smallest = 0;
      let equal = 0;
      let both = 0;
      let nets = 0;
      // Once unmeasured, as in a window that has been open for a while.
      for (let seed = 1; seed <= 12; seed++)
        placePlan(device, pkg, randomBoard(device, pkg, count, seed + 100));
      for (let seed = 1; seed <= 3; seed++)
        placePlan(device, pkg, impossibleBoard(device, pkg, count, seed + 100));
      for (let seed = 1; seed <= BOARDS; seed++) {
        const plan = randomBoard(device, pkg, count, seed);
        nets = plan.nets.length;
        const start = performance.now();
        const placing = placePlan(device, pkg, plan);
        ours.push(performance.now() - start);
        if (placing.status === 'optimal') proven++;
        if (placing.problem && placing.problem.pairs.length === 0) {
          const again = performance.now();
          solve(placing.problem, { nodes: DEFAULT_NODES });
          bare.push(performance.now() - again);
          const text = program(placing.problem);
          const from = performance.now();
          const answer = highs.solve(text, { time_limit: LIMIT, output_flag: false });
          theirs.push(performance.now() - from);
          if (answer.Status === 'Optimal' && placing.status === 'optimal') {
            both++;
            const cost = Math.round(answer.ObjectiveValue);
            if (cost === placing.objective) equal++;
            else failures.push(`${folder} ${pkg.id} board ${seed}: ${placing.objective} and ${cost}`);
          }
        }
        const impossible = impossibleBoard(device, pkg, count, seed);
        const before = performance.now();
        const { status, conflict } = placePlan(device, pkg, impossible);
        explained.push(performance.now() - before);
        if (conflict?.smallest) smallest++;
        if (status !== 'infeasible')
          failures.push(`${folder} ${pkg.id} board ${seed}: the impossible board was placed`);
      }
      const ratio = median(theirs) / median(bare);
      const wholeRatio = median(theirs) / median(ours);
      wholeRatios.push(wholeRatio);
      ratios.push(ratio);
      rows.push({
        part: folder,
        package: pkg.id,
        pads,
        nets,
        'proven optimal': `${proven} of ${BOARDS}`,
        'plan to answer, median ms': median(ours).toFixed(1),
        'search alone ms': median(bare).toFixed(1),
        'general solver ms': median(theirs).toFixed(0),
        'ratio, plan to answer': wholeRatio.toFixed(1),
        'ratio, search alone': ratio.toFixed(1),
        'equal objective': `${equal} of ${both}`,
        'explained ms, median': median(explained).toFixed(0),
        'explained ms, worst': Math.max(...explained).toFixed(0),
        'shown smallest': `${smallest} of ${BOARDS}`,
      });
    }
  }
  console.table(rows);
  console.log(
    `general solver / our search, median over packages: ${median(ratios).toFixed(1)} ; / plan to answer: ${median(wholeRatios).toFixed(1)} (aim 10), least ${Math.min(...wholeRatios).toFixed(1)} (aim 5)`,
  );
  for (const failure of failures) console.log(`DIFFERENT: ${failure}`);
}
