import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard } from '@/testing/frost-guard';
import type { Derived } from '../../derive/derive';
import { newRecording, playLine } from '../recording/recording';
import { HIGH, LOW, levelOf } from '../trace/lanes';
import { faultsOf, withFault } from './faults';

/** All faults with `./mavrek test --all`, otherwise a few of each family. */
const EACH = process.env.MAVREK_ALL === '1' ? 1 : 7;

/** Whatever the code and the far end do to a pin that is bridged to a rail, it stays at that rail. */
describe('a pin that is stuck', () => {
  const cases: [string, () => Derived][] = [
    ['frost guard', () => deriveOn(frostGuard())],
    ...FAMILIES.map((folder): [string, () => Derived] => [
      folder,
      () => deriveOn(familyPlan(family(folder)), family(folder)),
    ]),
  ];
  test.each(cases)(
    'stays stuck on %s: from power-up, through initialisation, and whatever is done to it',
    (_, make) => {
      const derived = make();
      const bad: string[] = [];
      const faults = faultsOf(derived).filter((fault) => fault.kind === 'stuck');
      for (const fault of faults.filter((_, index) => index % EACH === 0)) {
        const recording = newRecording(derived, undefined, withFault(derived, fault));
        const at = recording.play.bench.setup.byPad.get(fault.pad);
        const wanted = fault.level === 'high' ? HIGH : LOW;
        const name = derived.byPad.get(fault.pad)?.[0]?.net.name;
        const look = (after: string): void => {
          const { codes, lanes } = recording.play.bench.state;
          if (levelOf(codes[at ?? -1] ?? -1) !== wanted)
            bad.push(`${fault.pad} ${fault.level} after ${after}: ${levelOf(codes[at ?? -1] ?? -1)}`);
          const lane = lanes[at ?? -1];
          const levels = new Set([...(lane?.codes.subarray(0, lane.length) ?? [])].map(levelOf));
          if (levels.size !== 1) bad.push(`${fault.pad} ${fault.level} lane ${after}: ${[...levels]}`);
        };
        look('power-up');
        for (const line of [
          'initialise',
          `${name} high`,
          `${name} low`,
          `${name} on`,
          `${name} off`,
          `${name} free`,
          `press ${name} 3 ms bounce`,
          `read ${name}`,
          'wait 20 ms',
          'run deinit',
          'initialise',
        ]) {
          playLine(recording, line);
          look(line);
        }
      }
      expect(bad.slice(0, 12)).toEqual([]);
    },
  );
});
