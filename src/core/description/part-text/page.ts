import { grammarText } from './grammar-text';

/** `docs/part-text.md`, its grammar printed from the forms that read and print. */
export const partTextPage = (): string => `# The text of a part: grammar

A part's text (\`recipe.part\` beside its tables, or all of a part in one file, \`*.part\`) is a list of lines. What the lines mean is in
[device-format.md](device-format.md); this page says how they are written. It is printed from \`src/core/description/part-text\`
(\`npm run docs:grammar\`), where one list of forms reads lines, prints them and shows this grammar.

## Lines

- A line begins with a word that says what it is about. What belongs to it (registers to a block, steps to a stage) stands below it,
  indented deeper, by spaces.
- After its head a line has options, divided by commas, in any order. What is not said restricts nothing.
- A line goes on in the next row where a bracket is open or where it ends with a comma.
- Lines may stand in any order. Only the order of registers, of the rows of a table, of ports and of stages means something.
- \`#\` begins a comment, up to the end of the row. Comments stay where they are when a text is formatted, and with the part: its JSON holds the text as \`text\`.
- \`./mavrek device format FILE\` writes a text the way all texts are written: spaces, order of options, alignment.

## Words

| word | is written |
|---|---|
| NAME, and names of things: REGISTER, FIELD, VALUE, PAD … | bare where it has letters, digits and \`_ . * { } | -\` only, else between single quotes: \`'D+'\` |
| NAME..NAME | a run of numbered names: \`D0..D15\` |
| TEXT | between double quotes; \`\\"\`, \`\\\\\`, \`\\n\`, \`\\u00e9\` inside |
| NUMBER | \`12\`, \`0x1F\`, \`0.7\`; with a unit also \`66 MHz\`, \`22 kOhm\`, \`4 mA\`, \`3.3 V\`, \`0.5 mm\` |
| MASK | a number |
| EXPRESSION, CONDITION, EFFECT, STATEMENT | as in [device-format.md](device-format.md#positions-and-values); what cannot be written plainly stands between backticks |

In the grammar, quoted words stand for themselves, \`[ ]\` may be left out, \`|\` means one of both, \`…\` once more or several times.
Lines that are indented deeper stand under the line above them.

## Grammar

\`\`\`
${grammarText()}\`\`\`

## In an editor

The page of a part has an editor (tab *Text*). Any other editor that speaks the Language Server Protocol can start
\`./mavrek language-server\`: for \`.part\` files it gives diagnostics, completion, hover (address, reset, source), definition, references,
rename and formatting; for plan files their findings, and for the lines of their trials diagnostics, completion and hover. \`recipe.part\` is checked with the tables beside it.

At the command line: \`./mavrek device check PART\` (with \`--format json\` or \`sarif\`), \`device watch PART\`, which checks whenever a file
changes, \`device format FILE\`, and \`device compare A B\`: whether two descriptions of a part mean the same. Registers are compared by address, single writes to
each are carried out on both, and the code of each is proven on the registers of the other, each pad alone. Have a colleague describe the part again, from the data sheet: two people rarely
make the same mistake.

## JSON

Each text is one JSON document, and back: \`./mavrek device export PART --as text\` and \`--as json\`. A text beside tables gives a recipe file
([\`schema/mavrek-recipe-3.schema.json\`](schema/mavrek-recipe-3.schema.json)); one with lines for pads, functions and pins gives a whole description
([\`schema/mavrek-device-3.schema.json\`](schema/mavrek-device-3.schema.json)). Empty lists, a flag that is \`false\`, and a field of a single part
are not said. Fields with tables are kept in the order of the tables.
`;
