import { spawnSync } from 'node:child_process';
import { FAMILIES, family } from '@/testing/families';
import { hostileText } from '@/testing/hostile-text';
import { randomFrom } from '@/testing/random';
import { compileDevice } from '../../device/compile/compile';
import { printSvd } from './print-svd';

const check = (text: string): string => {
  const args = ['--noout', '--nonet', '--schema', 'src/testing/svd.xsd', '-'];
  const { status, stderr } = spawnSync('xmllint', args, { input: text, encoding: 'utf8' });
  return status === 0 ? '' : stderr.split('\n').slice(0, 4).join('\n');
};

test.each(FAMILIES)('the registers of %s are what the schema asks for', (folder) => {
  expect(check(printSvd(family(folder)))).toBe('');
});

test('so are those of a part whose texts attack the file', () => {
  const random = randomFrom(12);
  const { description } = family('corvane-c40');
  for (let turn = 0; turn < 5; turn++) {
    const named = {
      ...description,
      name: hostileText(random) || 'x',
      summary: hostileText(random) || 'x',
      maker: hostileText(random) || 'x',
    };
    const device = compileDevice(named);
    if (device.ok) expect(check(printSvd(device.value))).toBe('');
  }
});

test('the schema sees elements out of order, and numbers that are none', () => {
  const right = printSvd(family('corvane-c40'));
  expect(
    check(right.replace(/(<addressOffset>.*?<\/addressOffset>)(\s*)(<size>.*?<\/size>)/, '$3$2$1')),
  ).not.toBe('');
  expect(check(right.replace('<size>32</size>', '<size>wide</size>'))).not.toBe('');
  expect(check(right.replace('<width>32</width>', ''))).not.toBe('');
});
