import { at, DIR, hidden, type Shape } from './hardware-shapes';

/** Hardware of which something must be done around a write, in an order and with values that are only known when the code runs. */

const LATCH = at(1, 'LATCH', {});
const latchFirst = [
  { id: 'latch', fields: ['latch'] },
  { id: 'direction', fields: ['dir'] },
];

export const PROCEDURES: Record<string, Shape> = {
  'a mode is left for the time of the change, and comes back as it was': {
    registers: [
      at(0, 'DIR', { write: 'this := v', read: 'this', writeWhen: 'MODE == 0' }),
      LATCH,
      at(2, 'MODE', { reset: '0x05' }),
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      {
        id: 'direction',
        per: 'port',
        do: ['let mode = PORT.MODE', 'PORT.MODE := 0'],
        fields: ['dir'],
        after: ['PORT.MODE := mode'],
      },
    ],
  },
  'bits of a word are given for a moment, the others stay': {
    registers: [
      at(0, 'DIR', { write: 'this := v', read: 'this', writeWhen: '(MODE & 0x0C) == 0x04' }),
      LATCH,
      at(2, 'MODE', {}),
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      {
        id: 'direction',
        per: 'port',
        beforeEach: ['let mode = PORT.MODE', 'PORT.MODE := mode & ~0x0C | 0x04'],
        fields: ['dir'],
        afterEach: ['PORT.MODE := mode'],
      },
    ],
  },
  'a key that is the opposite of a number that is read': {
    registers: [
      at(0, 'DIR', { write: 'this := v', read: 'this', writeWhen: 'OPEN == 1' }),
      LATCH,
      hidden('SEED', { reset: 'unknown' }),
      hidden('OPEN', { bits: 1 }),
      at(2, 'CHALLENGE', { read: 'SEED' }),
      at(3, 'ANSWER', { write: 'OPEN := v == (SEED ^ 0xFF)' }),
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      {
        id: 'direction',
        per: 'port',
        beforeEach: ['let number = PORT.CHALLENGE', 'PORT.ANSWER := ~number'],
        fields: ['dir'],
        afterEach: ['PORT.ANSWER := number'],
      },
    ],
  },
  'a sequence that any access breaks, before a word that holds all bits': {
    registers: [
      hidden('STEP', { bits: 2, anyAccess: 'this := 0' }),
      at(0, 'DIR', { write: 'this := v', read: 'this', writeWhen: 'STEP == 2' }),
      at(1, 'LATCH', { write: 'this := v', read: 'this', writeWhen: 'STEP == 2' }),
      at(2, 'KEY', { write: 'STEP := v == 0xA0 + p ? 1 : (v == 0x51) & (STEP == 1) ? 2 : 0' }),
    ],
    stages: ['latch', 'dir'].map((field) => ({
      id: field,
      per: 'port' as const,
      beforeEach: ['PORT.KEY := 0xA0 + p', 'PORT.KEY := 0x51'],
      fields: [field],
    })),
  },
  'a sequence that a read ends': {
    registers: [
      at(0, 'DIR', { write: 'NEXT := v', read: 'SHOWN' }),
      hidden('NEXT'),
      hidden('SHOWN'),
      LATCH,
      at(2, 'STATE', { read: '0x11', afterRead: 'SHOWN := NEXT' }),
    ],
    more: {
      fields: {
        dir: { in: 'PORT.SHOWN', at: 'b', bits: 1, through: 'PORT.NEXT' },
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
      },
    },
    stages: [
      { id: 'latch', fields: ['latch'] },
      { id: 'direction', per: 'port', fields: ['dir'], after: ['read PORT.STATE'] },
    ],
  },
  'bits that take a write only where the pads are named': {
    registers: [
      at(0, 'DIR', { write: 'this := this & ~NAMED | v & NAMED', read: 'this' }),
      hidden('NAMED'),
      LATCH,
      at(3, 'NAME', { write: 'NAMED := v' }),
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      { id: 'direction', per: 'port', do: ['PORT.NAME := pads'], fields: ['dir'] },
    ],
  },
  'an address that names the pads': {
    registers: [
      at(0, 'DIR', { write: 'this := this & ~NAMED | v & NAMED', read: 'this' }),
      hidden('NAMED'),
      LATCH,
      { id: 'NAME', offset: '0x100 + i', bits: 8, count: 256, write: 'NAMED := i' },
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      { id: 'direction', per: 'port', do: ['PORT.NAME[pads] := 0'], fields: ['dir'] },
    ],
  },
  'a register selects the pad, another one holds what is meant': {
    registers: [LATCH],
    blocks: [
      {
        id: 'MUX',
        base: '0x3000',
        registers: [
          { id: 'WORD', offset: '0', bits: 2, access: 'internal', count: 16, index: 'n' },
          at(0, 'SELECT', {}),
          at(1, 'DATA', { read: 'WORD[SELECT]', write: 'WORD[SELECT] := v' }),
        ],
      },
    ],
    more: {
      fields: {
        dir: { in: 'MUX.WORD', at: '1', bits: 1 },
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
      },
    },
    stages: [
      { id: 'latch', fields: ['latch'] },
      { id: 'direction', per: 'pad', inTurn: true, do: ['MUX.SELECT := n'], fields: ['dir'] },
    ],
  },
  'a register selects the pad before each write, also for the latch': {
    registers: [DIR],
    blocks: [
      {
        id: 'MUX',
        base: '0x3000',
        registers: [
          { id: 'WORD', offset: '0', bits: 1, access: 'internal', count: 16, index: 'n' },
          at(0, 'SELECT', { write: 'this := v' }),
          at(1, 'DATA', { read: 'WORD[SELECT]', write: 'WORD[SELECT] := v' }),
        ],
      },
    ],
    more: {
      fields: {
        dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
        latch: { in: 'MUX.WORD', at: '0', bits: 1 },
      },
    },
    stages: [
      { id: 'latch', beforeEach: ['MUX.SELECT := n'], fields: ['latch'] },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'a word for each pad that one address writes, by its number': {
    registers: [LATCH],
    blocks: [
      {
        id: 'PAD',
        each: 'pad',
        base: '0x5000',
        name: 'W{pad}',
        registers: [{ id: 'WORD', offset: '0', bits: 1, access: 'internal' }],
      },
      {
        id: 'CMD',
        base: '0x3000',
        registers: [at(0, 'COMMAND', { write: 'PAD[*].WORD := (v >> 1 & 0xF) == n ? v & 1 : PAD[*].WORD' })],
      },
    ],
    more: {
      fields: {
        dir: { in: 'PAD.WORD', at: '0', bits: 1 },
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
      },
    },
    stages: latchFirst,
  },
  'two ports share a window: its number comes back as it was': {
    registers: [hidden('DIR'), hidden('LATCH')],
    blocks: [
      {
        id: 'WINDOW',
        base: '0x3000',
        registers: [
          hidden('PLACE', { bits: 1 }),
          at(0, 'WHICH', { read: 'PLACE', write: 'PLACE := v' }),
          at(1, 'DIRS', {
            read: 'PLACE == 0 ? PORT[A].DIR : PORT[B].DIR',
            write: 'PORT[A].DIR := PLACE == 0 ? v : PORT[A].DIR; PORT[B].DIR := PLACE == 1 ? v : PORT[B].DIR',
          }),
          at(2, 'LATCHES', {
            read: 'PLACE == 0 ? PORT[A].LATCH : PORT[B].LATCH',
            write:
              'PORT[A].LATCH := PLACE == 0 ? v : PORT[A].LATCH; PORT[B].LATCH := PLACE == 1 ? v : PORT[B].LATCH',
          }),
        ],
      },
    ],
    stages: [
      {
        id: 'all',
        per: 'port',
        inTurn: true,
        do: ['let which = WINDOW.WHICH', 'WINDOW.WHICH := p'],
        fields: ['latch', 'dir'],
        after: ['WINDOW.WHICH := which'],
      },
    ],
  },
};
