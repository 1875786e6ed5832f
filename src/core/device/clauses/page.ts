import { SHORTHANDS } from './shorthands';

const code = (text: string): string => (text === '' ? 'nothing' : `\`${text.replaceAll('|', '\\|')}\``);

/** `docs/clauses.md`: what every word for a register means, printed from {@link SHORTHANDS}. */
export const clausesPage = (): string => `# What the words for registers mean

Each word for how a register behaves is a shorthand for two clauses: what a read of its address gives, and what a write of a value \`v\` does to the
state of the hardware. This page is printed from \`src/core/device/clauses/shorthands.ts\` (\`npm run docs:clauses\`), which a machine
executes word by word. The tests hold that machine to a second one, written apart, and to the machine of the proof
([proof.md](proof.md#second-opinions)).

Values are words of 32 bits. \`this\` is the register's own state, \`R\` the register that it acts on, \`S\` and \`C\` the halves of the
word that set and clear, \`HALF\` half of its width, \`F\` and \`Z\` the flags among its bits that ones and zeros clear. \`==\` and its like bind looser than \`| ^ &\`; \`c ? a : b\`
binds loosest. All clauses of an access are about the state before it.

| word | says | a read gives | a write does |
|---|---|---|---|
${SHORTHANDS.map(
  ({ word, says, read, write }) =>
    `| \`${word}\` | ${says} | ${read === undefined ? 'no access' : code(read)} | ${write === undefined ? 'no access' : code(write)} |`,
).join('\n')}

Around these stand the conditions of the register:

- a **guard** is a condition on a bit: \`GATE.READY >> 3 & 1 == 1\`. Without it neither reads nor writes (or only writes) have effect;
- a **key** counts what has been written to it in a hidden state, \`KEY.seen\`. What it opens takes a write where \`KEY.seen >= 2\` (of two keys);
  the write then counts on where the key is good for so many writes only;
- \`always\` is a condition on what is written: \`v & 0xC0 == 0x80\`;
- \`ignores\`, \`writable where\` and a guard in the register itself say which bits of a write are taken: \`each(ALLOW >> 0, 2)\` lets two
  bits through for each bit of \`ALLOW\`.

## Clauses in a description

What no word says, a description says itself, in the same language: \`read\`, \`write\`, \`write when\`, \`after read\`, \`any write\`, \`any access\` and \`returns to\` of a
register ([device descriptions](device-format.md#registers), worked examples 29 to 40). There \`v\` is what is written, \`this\` the register's own bits; other names are
registers beside it (\`R\`), of the block that its instance belongs to (\`BLOCK.R\`), of a named instance (\`BLOCK[PA].R\`), of all of them (\`BLOCK[*].R\`), of an array (\`R[3]\`), or
numbers of columns. \`R[S]\` is the element of an array that the register S says: read, it is \`pick(S, R0, R1, …)\`; assigned, every element is given
\`S == i ? value : itself\`. Where \`BLOCK[*].R\` is assigned, it means the same instance in the value, and columns are that instance's.
State that no address reaches is a \`hidden\` register, of 1 to 32 bits. Guards and keys stand around clauses as around words.

| clause | when | what counts where two assign the same bit |
|---|---|---|
| \`any access\`, \`any write\` | with every access, or write, on the bus, refused or not | what the access itself assigns |
| \`write\` | with a write that guards, keys and \`write when\` let through | the later assignment |
| \`after read\` | with a read that guards let through | the later assignment |
| \`returns to\` | at any time from a change on, at the latest after so many cycles | |

All of them are about the state before the access.

## Several at one address

A write reaches every register within its bytes that is no view of the same word: each does what its own clause says.
`;
