import { on } from '@/testing/frost-guard';
import { compile, removeFolders, runGenerated, writeFolder } from '@/testing/run-c';
import { planOn, shapeDevice } from '@/testing/shape';
import type { Net } from '../../../plan/model/types';
import { generateFiles } from '../../generate';
import { cTarget } from './target';

/** The C of the worked examples, compiled with all warnings as errors, and run on a machine that was made of their text alone. */

afterAll(removeFolders);

type Nets = (Pick<Net, 'name' | 'role'> & Partial<Net>)[];

function run(shape: number, nets: Nets, extra: string, style: 'from-reset' | 'preserving'): string[] {
  const device = shapeDevice(shape);
  const derived = planOn(device, nets, style);
  const plan = { ...derived.plan, code: { ...derived.plan.code, prefix: 'p' } };
  expect(derived.proof.failures).toEqual([]);
  const folder = writeFolder(generateFiles(cTarget, planOn(device, nets, style)));
  expect(compile('gcc', folder, 'frost_guard.c')).toBe('');
  const lines: string[] = [];
  for (const chance of style === 'preserving' ? [3, 14, 159] : [undefined]) {
    const ran = runGenerated(plan, { device, extra, ...(chance === undefined ? {} : { chance }) });
    expect([ran.lost, ran.done]).toEqual([0, true]);
    lines.push(ran.lines.join('|').trim());
  }
  return [...new Set(lines)];
}

const bit = (name: string, at: number): string =>
  `printf("%u ", (unsigned)(look(row("${name}")) >> ${at} & 1u));`;
const output = { kind: 'output' } as const;
const input = { kind: 'input' } as const;

describe.each(['from-reset', 'preserving'] as const)('%s', (style) => {
  test('a word whose halves set, clear and toggle', () => {
    const nets = [{ name: 'LAMP', role: output, placement: on('A3') }];
    const look = bit('PA.OUT', 3);
    const extra = `${look} p_lamp_set(); ${look} p_lamp_clear(); ${look} p_lamp_toggle(); ${look} p_lamp_toggle(); ${look} ${bit('PA.DIR', 3)} printf("\\n");`;
    expect(run(19, nets, extra, style)).toEqual(['0 1 0 1 0 1']);
  });

  test('one write that sets one pull and clears the other', () => {
    const nets = (['up', 'down', 'none'] as const).map((pull, at) => ({
      name: `N${at}`,
      role: input,
      settings: { pull },
      placement: on(`A${at}`),
    }));
    const extra = `${[0, 1, 2].map((at) => `${bit('PA.UP', at)} ${bit('PA.DOWN', at)}`).join(' ')} printf("\\n");`;
    expect(run(27, nets, extra, style)).toEqual(['1 0 0 1 0 0']);
  });

  test('flags that a 0 clears, beside bits that enable', () => {
    const nets = ['A0', 'A1'].map((pad) => ({
      name: `N${pad}`,
      role: input,
      settings: { trigger: 'rising' },
      placement: on(pad),
    }));
    const show = 'printf("%x ", (unsigned)look(row("PA.EVENT")));';
    const raise = 'keep(row("PA.EVENT"), look(row("PA.EVENT")) | 0x00FF0000u);';
    const extra = `${raise} ${show} p_na0_interrupt_disable(); ${show} p_na1_interrupt_acknowledge(); ${show} p_na0_interrupt_enable(); ${show} printf("\\n");`;
    const [first, ...more] = run(28, nets, extra, 'from-reset');
    expect([first, more]).toEqual(['ff0003 ff0002 fd0002 fd0003', []]);
  });

  test('a level among the bits of a word, inverted by another of them, behind bits that are awaited', () => {
    const nets = [
      { name: 'KEY', role: input, settings: { 'own.inverted': 'yes' }, placement: on('A1') },
      { name: 'LAMP', role: output, settings: { start: 'asserted' as const }, placement: on('B3') },
    ];
    const level = (value: 0 | 1): string =>
      `keep(row("CELL_A1.WORD"), (look(row("CELL_A1.WORD")) & ~UINT32_C(0x200)) | (UINT32_C(${value}) << 9)); printf("%d ", p_key_read());`;
    const extra = `${level(0)} ${level(1)} ${bit('CELL_A1.WORD', 3)} ${bit('CELL_B3.WORD', 1)} p_lamp_toggle(); ${bit('CELL_B3.WORD', 1)} ${bit('CELL_B3.WORD', 0)} printf("\\n");`;
    // Inverted, a 0 that is shown is a high level.
    expect(run(20, nets, extra, style)).toEqual(['1 0 1 1 0 1']);
  });

  test('bits that are shut, lock bits beside them, and keys of which every write counts', () => {
    const nets = [
      { name: 'KEY', role: input, settings: { pull: 'down' }, placement: on('A1') },
      { name: 'LAMP', role: output, settings: { speed: 'fast' }, placement: on('B3') },
    ];
    const extra = `${bit('PA.DOWN', 1)} ${bit('PA.UP', 1)} ${bit('PB.FAST', 3)} ${bit('PB.DIR', 3)} printf("\\n");`;
    expect(run(22, nets, extra, style)).toEqual(['1 0 1 1']);
  });

  test('the pull that a word of the trade stands for, an inverted input, and a setting of the part’s own', () => {
    const nets = [
      { name: 'KEY', role: input, settings: { pull: 'up', 'own.filter': 'on' }, placement: on('A2') },
      { name: 'TURNED', role: input, settings: { 'own.inverted': 'yes' }, placement: on('A5') },
    ];
    const level = (bits: string): string =>
      `keep(row("PA.SEEN"), ${bits}); printf("%d%d ", p_key_read(), p_turned_read());`;
    const extra = `${level('0x04')} ${level('0x20')} printf("%x ", (unsigned)(look(row("PA.PULL")) >> 4 & 3u)); ${bit('PA.CALM', 2)} ${bit('PA.TURN', 5)} printf("\\n");`;
    expect(run(18, nets, extra, style)).toEqual(['11 00 1 1 1']);
  });
});
