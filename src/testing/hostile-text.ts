import type { Random } from './random';

/** Pieces of text that mean something to a language, to a spreadsheet, to a page or to a file system. */
const ATOMS: readonly string[] = [
  ...[
    '*/',
    '/*',
    '*\\',
    '\\*',
    '*',
    '/',
    '\\',
    '//',
    '\\\n',
    '*\\/',
    '\\/*',
    '**/',
    '/*/',
    '\uff0a\uff0f',
    '*\u0338/',
  ],
  ...['??/', '??', '?', '??)', "??'", '??=', '???/', '????/', '\uff1f\uff1f/'],
  ...['"', "'", '`', '"\\', '#', '#error x\n', '%:', '<:', '%s%n', '$(id)', '%>'],
  ...[
    '__asm__(".long 1");',
    'int x;',
    '};',
    '{',
    '(',
    ')',
    ';',
    '_Static_assert(0,"");',
    '#include </etc/passwd>',
  ],
  ...[
    '\n',
    '\r',
    '\r\n',
    '\t',
    '\v',
    '\f',
    '\0',
    '\u0085',
    '\u2028',
    '\u2029',
    '\u202e',
    '\u200b',
    '\ufeff',
    '\u0007',
  ],
  ...['=', '+', '-', '@', '\uff1d1+1', '=cmd|x', ' =1', '\n=1', '|', ','],
  ...['<script>alert(1)</script>', '</text>', '&', ']]>', '--', "'; drop table plans; --"],
  ...['../', '/etc/', 'con', 'nul.', '..', '.', '~', '%2e%2e%2f'],
  ...[
    '__proto__',
    'constructor',
    'toString',
    'hasOwnProperty',
    '0',
    'int',
    'init',
    'done',
    'a',
    'B7',
    ' ',
    '  ',
  ],
  ...['\u00e9', 'u\u0308', '\ufdfa', '\u2167', '\u33c2', '\u338f', '\u{1f600}', '\ud800', '\u0130', '\u00df'],
];

/** A text made to break out of wherever it is printed; up to `longest` characters. */
export function hostileText(random: Random, longest = 110): string {
  let text = '';
  for (let left = 1 + random.int(8); left > 0; left--) text += random.pick(ATOMS);
  return text.slice(0, longest);
}
