import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
import { compile, removeFolders, writeFolder } from '@/testing/run-c';
import { Memory } from './memory';
import { parseUnit } from './parse';
import { preprocess } from './preprocess';
import { Runner } from './run';

afterAll(removeFolders);

/** Follows `main` of a text, and gives what it writes to the addresses from 0x40000000 on. */
function follow(text: string): { out: string[]; told: string[] } {
  const [out, told]: [string[], string[]] = [[], []];
  const { tokens, problems } = preprocess({ name: 'main.c', text }, [], ['FOLLOWED']);
  const parsed = parseUnit('main.c', tokens, false);
  for (const one of [...problems, ...parsed.problems]) told.push(`${one.place} ${one.message}`);
  const bus = {
    read: () => ({ value: 0, known: 0xffffffff, bits: 32 as const }),
    write: ({ at, value, known }: { at: object; value: number; known: number }) => {
      const address = 'address' in at ? Number(at.address) : 0;
      out.push(`${(address - 0x40000000) / 4} ${known === 0xffffffff ? value : '?'}`);
    },
    wait: () => {},
  };
  const say = (place: { line: number }, message: string): number => told.push(`${place.line} ${message}`);
  const teller = { notUnderstood: say, suspicious: () => {} };
  const runner = new Runner(
    [parsed.unit],
    new Memory(0x20000000),
    bus,
    teller as never,
    { steps: 2_000_000 },
    false,
  );
  runner.start();
  const main = parsed.unit.functions.find(({ name }) => name === 'main');
  if (main) runner.call(main);
  return { out, told };
}

const HEAD = `#include <stdint.h>
#ifdef FOLLOWED
#define OUT(n, v) (*(volatile uint32_t *)(0x40000000u + 4u * (n)) = (uint32_t)(v))
#else
#include <stdio.h>
#define OUT(n, v) printf("%u %u\\n", (unsigned)(n), (unsigned)(uint32_t)(v))
#endif
`;

function bothWays(text: string): void {
  const folder = writeFolder([{ path: 'main.c', text }]);
  execFileSync('gcc', ['-std=c11', '-w', '-fwrapv', '-funsigned-char', 'main.c', '-o', 'main'], {
    cwd: folder,
  });
  const expected = execFileSync(join(folder, 'main'), { encoding: 'utf8' }).trim().split('\n');
  const { out, told } = follow(text);
  expect({ out, told, text }).toEqual({ out: expected, told: [], text });
}

/** Programs by chance: every kind of type, operator and statement that code for registers has. */
class Programs {
  private depth = 0;
  private loops = 0;
  constructor(private readonly random: Random) {}

  text(): string {
    const lines = [
      HEAD,
      'enum { ONE = 1, TWO, SEVEN = 7, EIGHT };',
      'struct inner { uint8_t a; uint16_t b[3]; };',
      'struct outer { uint32_t x : 3, y : 7; uint32_t z : 30; struct inner in; union { uint32_t w; uint8_t raw[4]; }; };',
      `#define FIELD(v, n) (((v) & SEVEN) << (n))`,
      '#define JOIN(a, b) a##b',
      '#define PICK(first, ...) (first, __VA_ARGS__)',
      'static uint32_t v0 = 5; uint8_t v1 = 200; int16_t v2 = -3; uint16_t v3 = 0xFFF0; int32_t v4 = -77; int8_t v5 = -1; uint64_t v6 = 0x123456789ull; int64_t v7 = -9;',
      'static struct outer s = { .y = 5, .in = { 3, { 1, 2, [2] = 9 } }, .w = 0x01020304u };',
      'static const uint16_t table[][2] = { { 1, 2 }, { 3 }, 5, 6 };',
      'static uint32_t twice(uint32_t n) { return n * 2u; }',
      'static int32_t less(int32_t a, uint8_t b) { if (a > b) return a - b; else return b; }',
      'static void bump(uint32_t *at, unsigned by) { *at += by; }',
      'static uint32_t (*const calls[])(uint32_t) = { twice, &twice };',
      'int main(void) {',
    ];
    for (let k = 0; k < 10; k++) lines.push(this.statement());
    for (let k = 0; k < 8; k++) lines.push(`OUT(${100 + k}, v${k});`);
    lines.push('OUT(110, s.x + s.y + s.in.a + s.in.b[2]); OUT(111, s.z); OUT(112, s.raw[1]);', 'return 0; }');
    return lines.join('\n');
  }

  private variable(): string {
    return `v${this.random.int(8)}`;
  }

  private target(): string {
    return this.random.pick([
      this.variable(),
      this.variable(),
      's.x',
      's.y',
      's.z',
      's.in.a',
      `s.in.b[${this.random.int(3)}]`,
      '(&s)->w',
      `s.raw[${this.random.int(4)}]`,
      '*(&v0)',
    ]);
  }

  private value(): string {
    if (++this.depth > 4) {
      this.depth--;
      return this.random.pick([
        this.variable(),
        String(this.random.int(300)),
        `0x${this.random.int(65536).toString(16)}u`,
        "'A'",
      ]);
    }
    const one = this.oneValue();
    this.depth--;
    return one;
  }

  private oneValue(): string {
    const { random } = this;
    const [a, b] = [this.value(), this.value()];
    switch (random.int(18)) {
      case 0:
        return `(${a} ${random.pick(['+', '-', '*', '&', '|', '^'])} ${b})`;
      case 1:
        return `${a} ${random.pick(['+', '-', '&', '|', '^'])} ${b}`;
      case 2:
        return `(${a} << ((${b}) & 7))`;
      case 3:
        return `(${a} >> ((${b}) & 7))`;
      case 4:
        return `(${a} ${random.pick(['<', '>', '<=', '>=', '==', '!='])} ${b})`;
      case 5:
        return `(${a} ${random.pick(['&&', '||'])} ${b})`;
      case 6:
        return `(${a} ? ${b} : ${this.value()})`;
      case 7:
        return `${random.pick(['~', '-', '!', '+'])}(${a})`;
      case 8:
        return `(${random.pick(['uint8_t', 'int8_t', 'uint16_t', 'int16_t', 'uint32_t', 'int', 'unsigned long long', 'short', 'char'])})(${a})`;
      case 9:
        return `((${a}) / ((uint32_t)(${b}) | 1u))`;
      case 10:
        return `((uint32_t)(${a}) % ((uint8_t)(${b}) | 1u))`;
      case 11:
        return `FIELD(${a}, TWO)`;
      case 12:
        return `less((int32_t)(${a}), ${b})`;
      case 13:
        return `calls[${random.int(2)}](${a})`;
      case 14:
        return `table[${random.int(3)}][(${a}) & 1]`;
      case 15:
        return `(uint32_t)(sizeof(struct outer) + sizeof table + sizeof(${this.variable()}))`;
      case 16:
        return `JOIN(v, ${random.int(8)})`;
      default:
        return this.target();
    }
  }

  private statement(): string {
    const { random } = this;
    if (this.depth > 2) return `OUT(${random.int(50)}, ${this.value()});`;
    this.depth++;
    const one = this.oneStatement();
    this.depth--;
    return one;
  }

  private oneStatement(): string {
    const { random } = this;
    switch (random.int(12)) {
      case 0:
        return `if (${this.value()}) { ${this.statement()} } else ${this.statement()}`;
      case 1: {
        const k = `k${++this.loops}`;
        return `for (int ${k} = 0; ${k} < ${1 + random.int(5)}; ${k}++) { ${this.statement()} if (${k} == ${random.int(5)}) ${random.pick(['break', 'continue'])}; OUT(${random.int(20)}, ${k}); }`;
      }
      case 2: {
        const k = `k${++this.loops}`;
        return `{ uint8_t ${k} = ${random.int(4)}; do { ${this.statement()} ${k}++; } while (${k} < 4); }`;
      }
      case 3:
        return `switch (${this.value()} & 3) { case 0: ${this.statement()} break; case ONE: case TWO: ${this.statement()} default: ${this.statement()} }`;
      case 4:
        return `${this.target()} ${random.pick(['+=', '-=', '|=', '&=', '^='])} ${this.value()};`;
      case 5:
        return `${this.target()} ${random.pick(['<<=', '>>='])} ${random.int(8)};`;
      case 6:
        return `bump(&v0, ${this.value()});`;
      case 7:
        return `OUT(${random.int(50)}, ${random.pick(['++', '--'])}${this.variable()}); ${this.variable()}${random.pick(['++', '--'])};`;
      case 8:
        return `{ struct outer t = s; t.in.b[1] = (uint16_t)(${this.value()}); s = t; const uint16_t *p = &s.in.b[1]; OUT(${random.int(50)}, p[-1] + *(p + 1)); }`;
      case 9:
        return `OUT(${random.int(50)}, PICK(${this.value()}, ${this.value()}));`;
      default:
        return `${this.target()} = ${this.value()};`;
    }
  }
}

test('what programs write is what they write when gcc has compiled them', () => {
  for (let seed = 1; seed <= fuzzBudget(40); seed++) bothWays(new Programs(randomFrom(seed)).text());
}, 600_000);

test('macros, declarations and preprocessing as gcc does them', () => {
  bothWays(
    `${HEAD}
#define STR(x) #x
#define XSTR(x) STR(x)
#define EMPTY
#define CALL(f, ...) f(__VA_ARGS__)
#define SELF SELF + 1
#define LONG(a, \\
             b) \\
    ((a) + \\
     (b))
#if defined(FOLLOWED) || !defined FOLLOWED && (2 > 1 ? 1 : 0)
enum { LENGTH = sizeof(XSTR(LONG(1,2))) };
#elif 1/0
#error never
#endif
typedef struct node { struct node *next; int value; } node;
typedef int (*operation)(int, int);
static int add(int a, int b) { return a + b; }
static int sub(int a, int b) { return a - b; }
static const struct { char name[4]; operation run; } operations[] = { { "add", add }, { .run = sub, .name = "sub" } };
int (*choose(int n))(int, int) { return operations[n].run; }
static int mine = 4;
#define mine (mine + 1)
static int matrix[2][3] = { 1, 2, 3, { 4, 5 } };
static unsigned char letters[] = "a\\x41\\101\\n";
int counter(void) { static int count = 40; return ++count; }
int main(void) {
  node last = { 0, 3 }, first = { &last, 4 };
  int sum = 0;
  for (node *at = &first; at; at = at->next) sum += at->value;
  OUT(1, sum); OUT(2, LENGTH); OUT(3, CALL(add, 1, 2)); OUT(4, choose(1)(9, 4));
  OUT(5, matrix[1][1] + *(*(matrix + 1)) + (int)(sizeof matrix / sizeof matrix[0]));
  OUT(6, letters[1] + letters[2] + letters[3] + (int)sizeof letters);
  OUT(7, counter() + counter()); OUT(8, operations[0].name[1]);
  OUT(9, ((struct { int a, b; }){ .b = 7 }).b); OUT(10, ((int[]){ 1, 2, 3 }[2]));
  OUT(11, LONG(1, 2) EMPTY); OUT(12, -1 < 0u); OUT(13, (uint8_t)-1 >> 4); OUT(14, (int8_t)0x80 >> 4);
  OUT(15, 010 + 0b11 + 'a' + 1'0);
  int n = 3; while (n --> 0) { if (n == 1) continue; OUT(16, n); }
  unsigned bits = 1; bits <<= 31; OUT(17, bits >> 31 | bits);
  int *p = &matrix[0][0]; p += 2; OUT(18, *p++ + *p); OUT(19, &matrix[1][0] - &matrix[0][1]);
  OUT(20, !sum + !!sum + ~sum + mine);
  return 0;
}
`.replace("1'0", '10'),
  );
  expect(compile('gcc', writeFolder([{ path: 'a.c', text: 'int a;\n' }]), 'a.c')).toBe('');
});
