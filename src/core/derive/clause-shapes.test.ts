import { at, DIR, hidden, type Shape, testShapes } from '@/testing/hardware-shapes';

/**
 * Hardware that only clauses can say: described, solved for, proven from reset and from every state, and run on the second machine, whose
 * clauses are translated from the text by other code.
 */

const SHAPES: Record<string, Shape> = {
  'a latch that no address reads, and registers that set and clear it': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(2, 'SETS', { write: 'LATCH |= v' }),
      at(3, 'CLRS', { write: 'LATCH &= ~v' }),
    ],
  },
  'of two states one: a write sets one and clears the other': {
    registers: [
      hidden('DIR'),
      hidden('IN'),
      at(1, 'LATCH', {}),
      at(2, 'DRIVE', { write: 'DIR |= v; IN &= ~v' }),
      at(3, 'LISTEN', { write: 'DIR &= ~v; IN |= v' }),
    ],
  },
  'an address that is itself the mask': {
    registers: [
      DIR,
      hidden('LATCH'),
      {
        id: 'AT',
        offset: '0x100 + i',
        bits: 8,
        count: 256,
        read: 'LATCH & i',
        write: 'LATCH := LATCH & ~i | v & i',
      },
    ],
  },
  'a word for each pad that is a bit of the port’s register': {
    registers: [DIR, hidden('LATCH')],
    blocks: [
      {
        id: 'PAD',
        each: 'pad',
        base: '0x3000 + 0x10*n',
        name: 'W{pad}',
        registers: [
          at(0, 'OUT', {
            read: 'PORT.LATCH >> b & 1',
            write: 'PORT.LATCH := PORT.LATCH & ~(1 << b) | (v & 1) << b',
          }),
        ],
      },
    ],
  },
  'a window of three accesses after a key': {
    registers: [
      DIR,
      hidden('LATCH'),
      hidden('LEFT', { anyAccess: 'this := this == 0 ? 0 : this - 1' }),
      at(5, 'KEY', { write: 'LEFT := v == 0x5A ? 3 : LEFT' }),
      at(6, 'OUT', { read: 'LATCH', write: 'LATCH := v', writeWhen: 'LEFT > 0' }),
    ],
    stages: [
      { id: 'latch', per: 'port', beforeEach: ['PORT.KEY := 0x5A'], fields: ['latch'] },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'a sequence that any access in between breaks, with a value for each port': {
    registers: [
      DIR,
      hidden('LATCH'),
      hidden('STEP', { anyAccess: 'this := 0' }),
      at(5, 'KEY', { write: 'STEP := v == 0xA0 + p ? 1 : (v == 0x50 + p) & (STEP == 1) ? 2 : 0' }),
      at(6, 'OUT', { write: 'LATCH := v', writeWhen: 'STEP == 2' }),
    ],
    stages: [
      {
        id: 'latch',
        per: 'port',
        beforeEach: ['PORT.KEY := 0xA0 + p', 'PORT.KEY := 0x50 + p'],
        fields: ['latch'],
      },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'a command register that sets or clears by what its upper half says': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(4, 'ORDER', {
        bits: 16,
        write: 'LATCH := v >> 8 == 1 ? LATCH | v : v >> 8 == 2 ? LATCH & ~v : LATCH',
      }),
    ],
  },
  'a command register for all ports, with port and bit in the word': {
    registers: [DIR, hidden('LATCH')],
    blocks: [
      {
        id: 'ALL',
        base: '0x3000',
        registers: [
          at(0, 'ORDER', {
            write:
              'PORT[A].LATCH := v & 0x40 == 0 ? PORT[A].LATCH & ~(v & 1 == 1 ? 1 : 0) | (v & 0x81 == 0x81 ? 1 : 0) | 0 : PORT[A].LATCH',
          }),
          {
            id: 'UP',
            offset: '0x10 + i',
            bits: 8,
            count: 8,
            write: 'PORT[A].LATCH |= v & 1 == 1 ? 1 << i : 0; PORT[B].LATCH |= v & 2 == 2 ? 1 << i : 0',
          },
          {
            id: 'DOWN',
            offset: '0x20 + i',
            bits: 8,
            count: 8,
            write: 'PORT[A].LATCH &= ~(v & 1 == 1 ? 1 << i : 0); PORT[B].LATCH &= ~(v & 2 == 2 ? 1 << i : 0)',
          },
        ],
      },
    ],
  },
  'a broadcast word that must be read once before it is taken': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(6, 'OUT', { read: 'LATCH', write: 'LATCH := v', writeWhen: 'ALL.READY == 1' }),
    ],
    blocks: [
      {
        id: 'ALL',
        base: '0x3000',
        registers: [
          hidden('READY', {}),
          at(0, 'LOOK', { read: '0', afterRead: 'READY := 1' }),
          at(1, 'QUIET', { write: 'PORT[*].DIR := v' }),
        ],
      },
    ],
    stages: [
      { id: 'quiet', do: ['await ALL.LOOK bit 0 = 0 within 1'] },
      { id: 'latch', fields: ['latch'] },
      { id: 'direction', fields: ['dir'] },
    ],
  },
  'turned by ones only: what is not known is read first': {
    registers: [DIR, at(1, 'LATCH', { read: 'this', write: 'this ^= v' })],
  },
  'a mirror in reversed order': {
    registers: [
      DIR,
      hidden('LATCH'),
      at(4, 'OUT', {
        read: mirrored('LATCH'),
        write: `LATCH := ${mirrored('v')}`,
      }),
    ],
  },
  'two bits of state that agree or not: a difference is written': {
    registers: [
      hidden('DIR'),
      hidden('SIDE'),
      at(1, 'LATCH', {}),
      at(2, 'TURN', { read: 'DIR ^ SIDE', write: 'DIR := v ^ SIDE' }),
      at(3, 'SIDES', { read: 'SIDE' }),
    ],
  },
};

function mirrored(name: string): string {
  return Array.from({ length: 8 }, (_, bit) => `(${name} >> ${bit} & 1) << ${7 - bit}`).join(' | ');
}

// The latch of this one is written as a whole, and nothing can read it: from every state its other bits cannot stay as they are.
testShapes(SHAPES, new Set(['a sequence that any access in between breaks, with a value for each port']));
