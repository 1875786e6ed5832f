import type { DeviceDescription } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import type { Device } from '@/core/device/device';
import { expectOk } from './expect-ok';
import { corvane } from './frost-guard';

/**
 * A small second part of another kind: 8-bit registers without set and clear, a latch that chooses the pull of inputs, a
 * toggle register, and a mux code split over two registers.
 */
const description = (): DeviceDescription => ({
  ...structuredClone(corvane().description),
  id: 'pellin-p8',
  name: 'Pellin P8',
  packages: [
    {
      id: 'd8',
      name: 'dual row 8',
      shape: { kind: 'dual-row', pins: 8 },
      pins: { '1': 'A0', '2': 'A1' },
    },
  ],
  pads: [0, 1].map((bit) => ({ id: `A${bit}`, kind: 'io' as const, port: 'A', bit, class: 'std' })),
  padClasses: { std: { title: 'standard' } },
  functions: [
    { pad: 'A0', signal: 'UART1.TX', mux: 2 },
    { pad: 'A0', signal: 'SPI1.SCK', mux: 1 },
    { pad: 'A1', signal: 'UART1.RX', mux: 3 },
  ],
  recipe: {
    endian: 'little',
    settings: { mode: ['input', 'output', 'function'], pull: ['none', 'up'], level: ['low', 'high'] },
    applies: { input: ['pull'], output: ['level'], function: [], analog: [] },
    ports: { A: { io: 4 } },
    registers: {
      blocks: [
        {
          id: 'PORT',
          each: 'port',
          base: '0x20 + port.io',
          name: 'P{port}',
          registers: [
            { id: 'DIR', offset: '0', bits: 8 },
            { id: 'PINS', offset: '4', bits: 8, access: 'read', follows: 'pads' },
            { id: 'FLIP', offset: '5', bits: 8, access: 'toggle of LATCH' },
            { id: 'LATCH', offset: '1', bits: 8 },
            { id: 'SEL', offset: '2', bits: 8 },
            { id: 'SELX', offset: '3', bits: 8, access: 'read-write' },
          ],
        },
      ],
    },
    fields: {
      pins: { in: 'PORT.PINS', at: 'b', bits: 1 },
      dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
      latch: { in: 'PORT.LATCH', at: 'b', bits: 1, toggledBy: 'PORT.FLIP' },
      code: {
        parts: [
          { in: 'PORT.SEL', at: 'b', bits: 1 },
          { in: 'PORT.SELX', at: '7-b', bits: 1 },
        ],
      },
    },
    access: { latch: 'latch', level: 'pins' },
    encode: [
      { field: 'dir', from: ['mode'], table: { output: 1, '*': 0 } },
      {
        field: 'latch',
        from: ['mode', 'pull', 'level'],
        table: { 'output * high': 1, 'output * low': 0, 'input up *': 1, 'input none *': 0, '*': 'keep' },
      },
      { field: 'code', from: ['mode'], table: { function: 'm', '*': 0 } },
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      { id: 'route', fields: ['code'] },
      { id: 'direction', fields: ['dir'] },
    ],
  },
});

export const pellin = (): Device => expectOk(loadDevice(description()));
