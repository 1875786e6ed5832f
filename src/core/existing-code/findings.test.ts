import { deriveOn, on, planOf } from '@/testing/frost-guard';
import type { ReviewRule } from './finding';
import type { FollowOptions } from './follow';
import { type Review, reviewCode } from './review';

const plan = planOf([
  { name: 'FAN', role: { kind: 'output' }, placement: on('B7'), settings: { active: 'low', drive: '4mA' } },
  { name: 'DOOR', role: { kind: 'input' }, placement: on('B9'), settings: { pull: 'up' } },
]);
const derived = deriveOn({ ...plan, code: { ...plan.code, style: 'from-reset' } });

const HEADER = `
#define REG32(address) (*(volatile unsigned int *)(address))
#define GATE_ON    REG32(0x40007018)
#define GATE_READY REG32(0x4000701C)
#define PB_BASE    0x50020800UL
typedef volatile unsigned int reg32;
typedef volatile unsigned short reg16;
struct port {
  reg32 USE, PULL; reg16 BUF, PLAIN; reg32 FORCE, FN[4]; unsigned gap0;
  reg16 OUT, gap1, OUTS, OUTC, IN, gap2; unsigned gap3[3]; reg32 SEAL;
};
#define PB ((struct port *)PB_BASE)
enum { USE_IN, USE_OUT, USE_FN, USE_ANALOG };
#define FIELD(pin, value) ((unsigned)(value) << (2 * (pin)))
#define PIN_FAN 7
#define PIN_DOOR 9
`;
const GATE = 'GATE_ON = 1u << 16 | 2u; while (!(GATE_READY & 2)) ;';
const LATCH = 'PB->OUT |= 1 << PIN_FAN;';
const PULL = 'PB->PULL |= FIELD(PIN_DOOR, 1);';
const FORCE = 'PB->FORCE |= FIELD(PIN_FAN, 1);';
const DIRECTION =
  'PB->USE = (PB->USE & ~(FIELD(PIN_FAN, 3) | FIELD(PIN_DOOR, 3))) | FIELD(PIN_FAN, USE_OUT) | FIELD(PIN_DOOR, USE_IN);';
const RIGHT = ['PB->SEAL = 0xC40C40;', LATCH, PULL, FORCE, DIRECTION, 'PB->SEAL = 0;'];

let count = 0;
const review = (text: string, options: FollowOptions = {}, header = HEADER): Review =>
  reviewCode(
    derived,
    [
      { name: 'board.c', text },
      { name: 'port.h', text: header },
    ],
    options,
    () => `id${++count}`,
  );
const inside = (...lines: string[]): string =>
  `#include "port.h"\nvoid pins_init(void)\n{\n${lines.join('\n')}\n}\n`;
const found = ({ findings }: Review): [ReviewRule, number][] =>
  findings.map(({ rule, place }) => [rule, place.line]);
const without = (line: string, ...instead: string[]): string[] =>
  RIGHT.flatMap((one) => (one === line ? instead : [one]));
const rules = (one: Review): ReviewRule[] => [...new Set(one.findings.map(({ rule }) => rule))];

test('code that is right has no findings, and reads back as the plan', () => {
  const one = review(inside(GATE, ...RIGHT));
  expect(found(one)).toEqual([]);
  expect([one.asPlanned, one.entries, one.missing]).toEqual([2, ['pins_init'], []]);
});

test('a pad that nothing sets up', () => {
  const one = review(inside(GATE, ...without(PULL)));
  expect(found(one)).toEqual([['differs-from-plan', 8]]);
  expect(one.findings[0]?.message).toBe(
    'DOOR (B9) ends as pull none instead of up; planned is input, pull up, input buffer Schmitt',
  );
  expect(one.findings[0]?.place.file).toBe('board.c');
});

test('one field too high is told with the pad that gets it, and read back so', () => {
  const one = review(inside(GATE, ...without(PULL, 'PB->PULL |= FIELD(PIN_DOOR + 1, 1);')));
  expect(one.findings.filter(({ rule }) => rule === 'off-by-one-field')).toMatchObject([
    {
      place: { line: 7 },
      message:
        'bits 20, 21 of PB.PULL get 1, which DOOR (B9) needs in bits 18, 19: one field too high, at B10',
    },
  ]);
  // B10 is analog after reset, and has no pull then.
  expect(one.readings.find(({ pad }) => pad === 'B10')?.state).toBe('meaningless');
});

test('the number of the pin instead of the first bit of its field', () => {
  const one = review(inside(GATE, ...without(PULL, 'PB->PULL |= 1u << PIN_DOOR;')));
  expect(one.findings.find(({ rule }) => rule === 'off-by-one-field')?.message).toBe(
    '1 is written at bit 9, the number of the pin; the field of DOOR (B9) in PB.PULL begins at bit 18',
  );
});

test('a later assignment of the whole register puts back what was set', () => {
  const one = review(inside(GATE, ...without(FORCE, FORCE, 'PB->FORCE = FIELD(3, 1);')));
  expect(one.findings.find(({ rule }) => rule === 'clobbers-bits')).toMatchObject({
    place: { line: 9 },
    message:
      'puts bits 14, 15 of PB.FORCE back, which board.c:8 has set for FAN (B7): it assigns the whole register, where only some bits are meant',
  });
});

test('bits that are added to a field that is not 0', () => {
  // After reset the fields of USE hold 3.
  const one = review(inside(GATE, ...without(DIRECTION, 'PB->USE |= FIELD(PIN_FAN, USE_OUT);')));
  expect(one.findings.find(({ rule }) => rule === 'ored-over')?.message).toBe(
    'field use of B7 in PB.USE holds 3; with 1 added to it it is 3: it has to be cleared first',
  );
});

test('a port without its clock', () => {
  const one = review(inside(...RIGHT));
  expect(found(one)).toContainEqual(['not-clocked', 4]);
  expect(one.findings.find(({ rule }) => rule === 'not-clocked')?.message).toMatch(
    /PB.SEAL is lost: GATE\.READY bit 1 is 0/,
  );
});

test('a lock that nobody has opened', () => {
  expect(found(review(inside(GATE, ...RIGHT.slice(1))))).toContainEqual(['locked', 8]);
});

test('the latch after the direction', () => {
  const one = review(inside(GATE, ...without(LATCH).slice(0, -1), LATCH, 'PB->SEAL = 0;'));
  expect(found(one)).toEqual([['unsafe-order', 8]]);
  expect(one.findings[0]?.message).toMatch(/FAN/);
});

describe('addresses', () => {
  test('a decimal offset that was written as hexadecimal, in a macro', () => {
    // PB.OUT is at offset 36 = 0x24.
    const header = `${HEADER}\n#define PB_OUT (*(reg16 *)(PB_BASE + 0x36))\n`;
    const one = review(inside(GATE, ...without(LATCH, 'PB_OUT |= 1 << PIN_FAN;')), {}, header);
    expect(
      one.findings.filter(({ rule }) => rule === 'wrong-address').map(({ message }) => message),
    ).toContainEqual(
      'PB_OUT is 0x50020836; PB.OUT is at 0x50020824 (offset 36): a decimal offset was written as hexadecimal',
    );
  });
  test('a decimal offset that was written as hexadecimal, without a name', () => {
    const one = review(
      inside(GATE, ...without(LATCH, '*(volatile unsigned short *)(PB_BASE + 0x36) = 1 << 7;')),
    );
    expect(one.findings.find(({ rule }) => rule === 'wrong-address')?.message).toBe(
      'the part has no register at 0x50020836, offset 0x36 (54); PB.OUT is at offset 0x24 (36): one was written for the other',
    );
  });
  test('a member that is not where the register is', () => {
    const header = HEADER.replace('unsigned gap0;', '');
    const one = review(inside(GATE, ...RIGHT), {}, header);
    expect(
      one.findings.find(({ rule, register }) => rule === 'wrong-address' && register?.name === 'PB.SEAL'),
    ).toBeUndefined();
    expect(rules(one)).toContain('no-register');
    const swapped = review(inside(GATE, ...RIGHT), {}, HEADER.replace('USE, PULL', 'PULL, USE'));
    expect(swapped.findings.find(({ rule }) => rule === 'wrong-address')?.message).toBe(
      'PULL is at offset 0x0 (0) here, where PB.USE is; PB.PULL is at 0x4 (4)',
    );
  });
  test('an address where the part has nothing', () => {
    expect(found(review(inside(GATE, ...RIGHT, '*(volatile unsigned *)0x60000000 = 1;')))).toEqual([
      ['no-register', 11],
    ]);
  });
});

test('a pointer without volatile', () => {
  const one = review(
    inside(
      GATE,
      ...without(FORCE, 'unsigned *force = (unsigned *)(PB_BASE + 12); *force |= FIELD(PIN_FAN, 1);'),
    ),
  );
  expect(found(one)).toEqual([['not-volatile', 8]]);
});

test('an access in another width', () => {
  const one = review(inside(GATE, ...without(LATCH, '*(volatile unsigned char *)(PB_BASE + 36) = 0x80;')));
  expect(found(one)).toEqual([['access-width', 6]]);
});

test('numbers that do not fit, and shifts too far', () => {
  expect(rules(review(inside(GATE, ...without(LATCH, 'PB->OUT = 0x10080;'))))).toEqual([
    'value-does-not-fit',
  ]);
  expect(rules(review(inside(GATE, ...RIGHT, 'PB->FORCE |= 1u << 32;')))).toEqual([
    'shift-too-far',
    'not-understood',
  ]);
});

test('operators that are done in another order', () => {
  expect(rules(review(inside('if (GATE_READY & 2 == 2) { }', GATE, ...RIGHT)))).toEqual(['precedence']);
  expect(rules(review(inside('GATE_ON = 0x10002;', 'while (!GATE_READY & 2) ;', ...RIGHT)))).toContain(
    'precedence',
  );
});

test('a wait that never ends', () => {
  expect(found(review(inside('while (!(GATE_READY & 4)) { }', GATE, ...RIGHT)))).toEqual([
    ['endless-wait', 4],
  ]);
});

test('a write to what can only be read, and a read of what can only be written', () => {
  expect(rules(review(inside(GATE, ...RIGHT, 'PB->IN = 1;')))).toEqual(['lost-write']);
  expect(rules(review(inside(GATE, ...RIGHT, 'PB->OUTS |= 0x100;')))).toContain('not-in-plan');
});

test('a pad that the plan has nothing on', () => {
  const one = review(
    inside(GATE, ...without(DIRECTION, DIRECTION, 'PB->USE = (PB->USE & ~FIELD(3, 3)) | FIELD(3, USE_OUT);')),
  );
  expect(found(one)).toEqual([
    ['unsafe-order', 10],
    ['not-in-plan', 10],
  ]);
  expect(one.findings[1]?.message).toMatch(/^B3 is set up as output/);
});

test('what cannot be followed is told by its line, and the rest is followed', () => {
  const one = review(
    inside(
      'vendor_setup(3);',
      'asm volatile ("mov r0, r1");',
      GATE,
      'if (PB->IN & 1) PB->FORCE = 0;',
      'PB->FORCE |= BOARD_EXTRA;',
      'int x = = 3;',
      ...RIGHT,
    ),
  );
  expect(found(one).filter(([rule]) => rule === 'not-understood')).toEqual([
    ['not-understood', 4],
    ['not-understood', 5],
    ['not-understood', 7],
    ['not-understood', 8],
    ['not-understood', 8],
    ['not-understood', 9],
  ]);
  expect(one.asPlanned).toBe(2);
});

test('bit-fields, designated values, function pointers and loops over pins', () => {
  const header = `${HEADER}
struct use { unsigned p0:2, p1:2, p2:2, p3:2, p4:2, p5:2, p6:2, fan:2, p8:2, door:2; };
#define USE_BITS (*(volatile struct use *)PB_BASE)
struct pin { unsigned char pin, pull; };
static const struct pin pins[] = { [1] = { .pin = 7 }, [0] = { .pull = 1, .pin = 9 } };
static void pull(unsigned pin, unsigned value) { PB->PULL |= FIELD(pin, value); }
typedef void (*setter)(unsigned, unsigned);
`;
  const lines = [
    'setter how = pull;',
    'for (unsigned k = 0; k < sizeof pins / sizeof *pins; k++) (*how)(pins[k].pin, pins[k].pull);',
  ];
  const direction = 'USE_BITS.door = USE_IN; USE_BITS.fan = USE_OUT;';
  const one = review(
    inside(GATE, ...without(PULL, ...lines).flatMap((line) => (line === DIRECTION ? [direction] : [line]))),
    {},
    header,
  );
  expect(found(one)).toEqual([]);
  expect(one.asPlanned).toBe(2);
});

test('types and ports of headers that are not there, in variables, tables and functions', () => {
  const text = `#include "vendor.h"
typedef struct { vendor_port_t *port; uint8_t pin, use; } row_t;
static const row_t rows[] = { { PB, 7, 1 }, { PB, 9, 0 } };
extern volatile uint32_t PB_SEAL;
static void use(vendor_port_t *port, unsigned pin, unsigned value)
{
    if (port == PC) return;
    port->USE = (port->USE & ~(UINT32_C(3) << (2 * pin))) | value << (2 * pin);
}
static void add(REG_RW uint32_t *reg, uint32_t bits) { *reg |= bits & UINT32_MAX; }
void pins_init(void)
{
    vendor_port_t *const port = PB;
    GATE->ON |= 2u;
    while ((GATE->READY & 2u) == 0u) { }
    PB_SEAL = 0xC40C40;
    port->OUT |= 1 << 7;
    add(&port->PULL, 1 << 18);
    add(&port->FORCE, 1 << 14);
    for (const row_t *row = rows; row != rows + 2; ++row) use(row->port, row->pin, row->use);
    PB_SEAL = 0;
}`;
  const one = reviewCode(derived, [{ name: 'board.c', text }], {}, () => `id${++count}`);
  expect(found(one)).toEqual([]);
  expect([one.asPlanned, one.missing]).toEqual([2, ['vendor.h']]);
});

test('a fragment without a function, and names without a header', () => {
  const lines = [
    'GATE->ON = 0x10002;',
    'while (!(GATE.READY & 2)) ;',
    'PB_SEAL = 0xC40C40;',
    'PB->OUT |= 1 << 7; PB->PULL |= 1 << 18; PB->FORCE |= 1 << 14;',
    'REG(PB, USE) = 0xFFF37FFF;',
    'BOARD_PB_SEAL.reg = 0;',
  ];
  const one = reviewCode(derived, [{ name: 'pasted.c', text: lines.join('\n') }], {}, () => `id${++count}`);
  expect(found(one)).toEqual([]);
  expect(one.asPlanned).toBe(2);
});

test('main ends at its endless loop; the entry can be chosen; definitions can be given', () => {
  const text = `${inside('#ifdef BOARD_C', GATE, ...RIGHT, '#endif')}
int main(void) { pins_init(); for (;;) { PB->OUT ^= 0x80; } }
void other(void) { PB->FORCE = 0; }`;
  expect(found(review(text, { defines: ['BOARD_C'] }))).toEqual([]);
  expect(review(text, { defines: ['BOARD_C'] }).entries).toEqual(['main']);
  expect(
    review(text, { defines: ['BOARD_C=1'], entries: ['pins_init', 'other'] }).findings.map(
      ({ rule }) => rule,
    ),
  ).toContain('clobbers-bits');
  expect(review(text).asPlanned).toBe(0);
});

test('hostile code ends soon and says so', () => {
  const bombs = [
    'void f(void) { for (unsigned k = 0; ; k++) { if (k == 3000000000u) break; } }',
    'void f(void) { f(); f(); }',
    `${Array.from({ length: 40 }, (_, k) => `#define A${k + 1} A${k} A${k}`).join('\n')}\nvoid f(void) { A40; }`,
    `void f(void) { ${'('.repeat(5000)}1${')'.repeat(5000)}; }`,
    `void f(void) { ${'{'.repeat(5000)}`,
    'char big[4000000000u]; void f(void) { }',
    '#include "board.c"\n#include "board.c"\nvoid f(void) { }',
    '#define X(a) X(a) X(a)\nX(X(X(1)))',
    'struct s { struct s one; } v; void f(void) { v.one.one.one; }',
    'void f(void) { *(int *)0 = *(int *)-1; ((void (*)(void))0)(); }',
    'int a[] = { [999999999] = 1 }; void f(void) { a[5] = 3; }',
    '"\\',
    "'",
    '#if (',
    '#if 1/0',
    '#define f(',
    '#',
    '\u0000\u0001',
    '__proto__.constructor = 1; void __proto__(void) { toString(); }',
  ];
  for (const text of bombs) expect(() => review(text)).not.toThrow();
});
