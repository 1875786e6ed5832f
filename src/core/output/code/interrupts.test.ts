import { execFileSync } from 'node:child_process';
import { FAMILIES, family } from '@/testing/families';
import { corvane, deriveOn, on, planOf } from '@/testing/frost-guard';
import { removeFolders, writeFolder } from '@/testing/run-c';
import { DECLARED, machineOf } from '@/testing/run-targets';
import type { Device } from '../../device/device';
import type { Plan } from '../../plan/model/types';
import { generateFiles } from '../generate';
import { cTableTarget, cTarget } from './c/target';
import { programOf } from './program/program';

jest.setTimeout(120_000);
afterAll(removeFolders);

/** Two nets that interrupt, on the first pads that can. */
function board(device: Device): Plan {
  const pkg = [...device.packages.values()][0]?.id ?? '';
  const trigger = device.description.recipe.settings.trigger?.find((one) => one !== 'none');
  const pinned = [...(device.pinsOf.get(pkg)?.keys() ?? [])];
  const pads = device.description.pads.filter(
    (pad) => pad.kind === 'io' && pad.port !== undefined && pinned.includes(pad.id),
  );
  const nets = [pads[1], pads[2]].map((pad, at) => ({
    name: `ALARM_${at}`,
    role: { kind: 'interrupt' as const },
    placement: on(pad?.id ?? ''),
    settings: trigger === undefined ? {} : { trigger },
  }));
  return planOf(nets, {
    device: device.description.id,
    package: pkg,
    code: { prefix: 'brd', style: 'preserving' },
  });
}

const flagged = FAMILIES.filter((one) => family(one).description.recipe.access.pending !== undefined);

test('families show flags of interrupts, and are tried below', () => {
  expect(flagged.length).toBeGreaterThan(1);
});

describe.each(flagged)('%s', (folder) => {
  const device = family(folder);
  const derived = deriveOn(board(device), device);
  test('enable, disable, acknowledge and pending are proven', () => {
    const own = derived.accessors.list.filter(({ action }) => action.startsWith('interrupt_'));
    expect(own.map(({ action, fault }) => [action, fault])).toEqual(
      [0, 1].flatMap(() =>
        ['enable', 'disable', 'acknowledge', 'pending'].map((one) => [`interrupt_${one}`, undefined]),
      ),
    );
  });

  test.each([cTarget, cTableTarget])(
    '$title: a flag leads to its handler once, and is taken back; enabling is turned off and on',
    (target) => {
      const files = generateFiles(target, derived).map(({ path, text }) => ({ path, text }));
      const { interrupts } = programOf(derived);
      const flag = device.slotsOf(
        device.description.recipe.access.pending ?? '',
        derived.planned[0]?.pad as never,
      )[0];
      if (!flag) throw new Error('no flag');
      const line = interrupts.find(({ nets }) => nets.some(({ name }) => name === 'ALARM_0'))?.id ?? '';
      const main = `${DECLARED}#include <stdio.h>
#include "brd.h"
void brd_alarm_0_handler(void) { puts("alarm 0"); }
int main(void) {
  m_start(0u, 0); brd_init();
  m_write(${flag.register.address}u, ${flag.register.bits}, ${2 ** flag.low}u);
  puts("raised");
  printf("pending %d\\n", brd_alarm_0_interrupt_pending());
  brd_interrupt_${line.toLowerCase()}();
  printf("pending %d\\n", brd_alarm_0_interrupt_pending());
  brd_interrupt_${line.toLowerCase()}();
  brd_alarm_0_interrupt_disable();
  puts("off");
  brd_alarm_0_interrupt_enable();
  puts("on");
  return 0;
}
`;
      const shim = `${DECLARED}${[8, 16, 32]
        .map(
          (bits) =>
            `#define BRD_READ${bits}(a) ((uint${bits}_t)m_read((uint32_t)(a), ${bits}))\n#define BRD_WRITE${bits}(a, v) m_write((uint32_t)(a), ${bits}, (v))\n`,
        )
        .join('')}#define BRD_WAIT(cycles) m_wait(cycles)\n`;
      const cwd = writeFolder([...files, { path: 'main.c', text: main }, { path: 'shim.h', text: shim }]);
      execFileSync(
        'gcc',
        ['-std=c11', '-w', '-include', 'shim.h', 'brd.c', 'main.c', machineOf(derived), '-o', 'main'],
        { cwd },
      );
      const lines = execFileSync('./main', { cwd, encoding: 'utf8' }).split('\n');
      const said = lines.slice(lines.indexOf('raised')).filter((one) => /^(pending|alarm|off|on)/.test(one));
      expect(said).toEqual(['pending 1', 'alarm 0', 'pending 0', 'off', 'on']);
      const writes = (from: string, to: string): string[] =>
        lines
          .slice(lines.indexOf(from), to === '' ? undefined : lines.indexOf(to))
          .filter((one) => one.startsWith('w '));
      const [off, again] = [writes('pending 0', 'off'), writes('off', 'on')];
      expect(off.length).toBeGreaterThan(0);
      expect(again.length).toBeGreaterThan(0);
      expect(again).not.toEqual(off);
    },
  );
});

test('a part that shows no flags calls every handler of a line; its number is a constant', () => {
  const plan = planOf([
    { name: 'IRQ_A', role: { kind: 'interrupt' }, placement: on('A4') },
    { name: 'IRQ_B', role: { kind: 'interrupt' }, placement: on('B5') },
  ]);
  const derived = deriveOn(plan, corvane());
  const text = generateFiles(cTarget, derived)
    .map((file) => file.text)
    .join('\n');
  expect(text).toMatch(/#define \w+_IRQ_A_INTERRUPT_NUMBER 12u/);
  expect(text).toMatch(/#define \w+_IRQ_B_INTERRUPT_NUMBER 13u/);
  expect(text).toMatch(/_WEAK void \w+_irq_a_handler\(void\)/);
  expect(text).toMatch(/void \w+_interrupt_4\(void\)\n\{\n {4}\w+_irq_a_handler\(\);\n\}/);
});
