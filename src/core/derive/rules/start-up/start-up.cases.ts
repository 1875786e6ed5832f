import { on, planOf } from '@/testing/frost-guard';
import { type Case, onFamily, out, output } from '@/testing/rules';
import { loadSmall } from '@/testing/small-part';
import type { RecipeSource } from '../../../description/recipe';

const recipe: Partial<RecipeSource> = {
  settings: { mode: ['input', 'output', 'function'], level: ['low', 'high'] },
  applies: { input: [], output: ['level'], function: [], analog: [] },
  registers: {
    blocks: [
      {
        id: 'PORT',
        each: 'port',
        base: '0x1000 + 0x40*p',
        name: 'P{port}',
        registers: [
          { id: 'DIR', offset: '0', bits: 8 },
          { id: 'LATCH', offset: '1', bits: 8 },
          { id: 'SEEN', offset: '2', bits: 8, access: 'read', follows: 'pads' },
          { id: 'ALT', offset: '3', bits: 8 },
        ],
      },
      { id: 'SYS', base: '0x2000', registers: [{ id: 'ON', offset: '0', bits: 8 }] },
      {
        id: 'PICK',
        each: 'signal',
        has: 'signal.line',
        base: '0x3000 + signal.line',
        name: 'IN_{signal}',
        registers: [{ id: 'PAD', offset: '0', bits: 8 }],
      },
    ],
    guards: [{ block: 'PORT', registers: ['DIR'], openWhen: 'SYS.ON bit p' }],
  },
  fields: {
    dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
    latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
    seen: { in: 'PORT.SEEN', at: 'b', bits: 1 },
    alt: { in: 'PORT.ALT', at: 'b', bits: 1 },
    pick: { in: 'PICK.PAD', at: '0', bits: 5 },
  },
  access: { latch: 'latch', level: 'seen' },
  encode: [
    { field: 'dir', from: ['mode', 'line'], table: { 'output *': 1, 'function out': 1, '*': 0 } },
    { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
    { field: 'alt', from: ['mode'], table: { function: 1, '*': 0 } },
    { field: 'pick', from: ['mode'], table: { function: 'n', '*': 'keep' } },
  ],
  stages: [
    { id: 'gate', per: 'port', do: ['SYS.ON bit p := 1'] },
    { id: 'latch', fields: ['latch'] },
    { id: 'pads', fields: ['pick', 'alt', 'dir'] },
  ],
};
const right = loadSmall(recipe);
export const gateless = loadSmall({ ...recipe, stages: recipe.stages?.slice(1) ?? [] });
const unread = structuredClone(recipe);
delete unread.registers?.blocks[0]?.registers[2]?.follows;

export const board = (nets: Parameters<typeof planOf>[0], change = {}) =>
  planOf(nets, { device: 'shape', package: 'q16', ...change });
export const lamp = out('LAMP', 'A3');

export const START_UP_CASES: Record<string, Case[]> = {
  unproven: [
    { name: 'all is well', plan: board([lamp]), device: right, messages: [] },
    {
      name: 'a gate that nothing opens',
      plan: board([lamp]),
      device: gateless,
      messages: [
        /^`LAMP` is not proven: operation 3 \(stage pads\): the write to PA\.DIR may be lost: SYS\.ON bit 0 must be 1, and may be 0\.$/,
      ],
      remedies: [[]],
    },
    {
      name: 'pads with one cause are one finding',
      plan: board([lamp, out('HORN', 'A4'), out('FAR', 'B1')]),
      device: gateless,
      messages: [
        /^`LAMP`, `HORN` are not proven: .*write to PA\.DIR/,
        /^`FAR` is not proven: .*write to PB\.DIR/,
      ],
      remedies: [[], []],
    },
    {
      name: 'a pad that nobody planned counts as well',
      plan: board([lamp], { tables: { severity: {}, label: {}, unused: { B2: 'output-low' } } }),
      device: gateless,
      messages: [/^`LAMP` is not proven/, /^unused pad `B2` is not proven: .*write to PB\.DIR may be lost/],
      remedies: [[], []],
    },
    {
      name: 'one signal on two pads is reported as such, and as nothing else',
      plan: board([
        { name: 'TX1', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('A0') },
        { name: 'TX2', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('B0') },
      ]),
      device: right,
      messages: [],
    },
  ],
  'shared-bits': [
    {
      name: 'one signal on two pads',
      plan: board([
        { name: 'TX1', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('A0') },
        { name: 'TX2', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('B0') },
      ]),
      device: right,
      messages: [],
    },
  ],
  'access-unproven': [
    { name: 'all is well', plan: board([lamp]), device: right, messages: [] },
    {
      name: 'a level of which the description does not say what it is',
      plan: board([lamp]),
      device: loadSmall(unread),
      messages: [
        /^It is not proven that the code does with `LAMP` what its accessors \(read\) say: the description does not say that PA\.SEEN follows the pads\.$/,
      ],
      remedies: [[]],
    },
  ],
  'setting-idle': [
    { name: 'nothing asked', plan: board([lamp]), device: right, messages: [] },
    {
      name: 'a pull on an output that has none there',
      ...onFamily('ketter-k2', 'q64', [
        {
          name: 'LAMP',
          role: output,
          placement: on('B2'),
          settings: { pull: 'up', outputType: 'open-drain' },
        },
      ]),
      messages: [
        /^`LAMP` asks for pull up, which has no effect on pad `B2` \(pin \d+\): on this part it means nothing for an output\.$/,
      ],
      remedies: [['take pull away']],
    },
    {
      name: 'a setting that the part does not have',
      plan: board([{ ...lamp, settings: { speed: 'fast' } }]),
      device: right,
      messages: [/asks for speed fast, .*: the Shape has no such setting/],
      remedies: [['take speed away']],
    },
  ],
};
