/** Tokens of a SystemRDL 2.0 text, read from left to right; comments are left out. */
export interface Token {
  kind: 'word' | 'number' | 'text' | 'symbol' | 'end';
  text: string;
  /** Of numbers; not safe integers are refused where they are used. */
  value?: number;
  line: number;
  column: number;
}

/** Something in the text that is not understood, and where. */
export class Misread extends Error {
  constructor(
    message: string,
    readonly line: number,
    readonly column: number,
  ) {
    super(message);
  }
}

const PATTERN =
  /(\s+|\/\/[^\n]*|\/\*[\s\S]*?\*\/)|("(?:[^"\\]|\\[\s\S])*")|(\d[\d_]*'[bdhoBDHO][0-9A-Fa-f_]+|0[xX][0-9A-Fa-f_]+|\d[\d_]*)|(\\?[A-Za-z_]\w*)|(\+=|%=|->|\*\*|==|!=|<=|>=|<<|>>|&&|\|\||~&|~\||~\^|\^~|'\{|::|[{}()[\];:,.=@#?~!&|^+\-*/%<>'])/y;

const RADIX: Readonly<Record<string, number>> = { b: 2, o: 8, d: 10, h: 16 };

function numberOf(text: string): number {
  const plain = text.replaceAll('_', '');
  const based = /^\d+'([bdho])(.+)$/i.exec(plain);
  return based
    ? Number.parseInt(based[2] as string, RADIX[(based[1] as string).toLowerCase()])
    : Number(plain);
}

export function tokensOf(text: string): Token[] {
  const tokens: Token[] = [];
  let [line, lineStart, at] = [1, 0, 0];
  while (at < text.length) {
    if (text.startsWith('/*', at) && text.indexOf('*/', at + 2) < 0)
      throw new Misread('this comment has no end', line, at - lineStart + 1);
    PATTERN.lastIndex = at;
    const match = PATTERN.exec(text);
    const column = at - lineStart + 1;
    if (!match) {
      const char = text[at] as string;
      if (char === '`')
        throw new Misread(
          'preprocessor directives are not followed: run the preprocessor first',
          line,
          column,
        );
      throw new Misread(
        char === '"' ? 'this string has no end' : `unexpected character "${char}"`,
        line,
        column,
      );
    }
    const [whole, skipped, string, number, word] = match;
    if (skipped === undefined) {
      if (string !== undefined)
        tokens.push({ kind: 'text', text: string.slice(1, -1).replace(/\\(["\\])/g, '$1'), line, column });
      else if (number !== undefined)
        tokens.push({ kind: 'number', text: number, value: numberOf(number), line, column });
      else
        tokens.push({
          kind: word === undefined ? 'symbol' : 'word',
          text: whole.replace(/^\\/, ''),
          line,
          column,
        });
    }
    for (let from = whole.indexOf('\n'); from >= 0; from = whole.indexOf('\n', from + 1)) {
      line++;
      lineStart = at + from + 1;
    }
    at += whole.length;
  }
  tokens.push({ kind: 'end', text: 'the end of the file', line, column: at - lineStart + 1 });
  return tokens;
}
