/** Where something stands in a file. Lines and columns count from 1. */
export interface Place {
  file: string;
  line: number;
  column: number;
  /** The macro that it comes from, where that only stands for a value. */
  macro?: string;
}

export type TokenKind = 'name' | 'number' | 'character' | 'string' | 'sign' | 'other';

/** A token of C. After expansion of macros its place is that of the outermost macro's use. */
export interface Token {
  kind: TokenKind;
  text: string;
  place: Place;
  /** Something blank stands before it. */
  spaced: boolean;
  /** Macros that must not be expanded in it any more. */
  hidden?: ReadonlySet<string>;
}

/** The tokens of a logical line: lines that end with a backslash go on in the next. */
export type TokenLine = Token[];

const PATTERN =
  /(?<blank>[ \t\f\v]+)|(?<name>[A-Za-z_$\u0080-\uffff][\w$\u0080-\uffff]*)|(?<number>\.?\d(?:[eEpP][+-]|[\w.'])*)|(?<character>(?:u8|[LuU])?'(?:\\.|[^'\\\n])*')|(?<string>(?:u8|[LuU])?"(?:\\.|[^"\\\n])*")|(?<sign>\.\.\.|<<=|>>=|->|\+\+|--|<<|>>|<=|>=|==|!=|&&|\|\||[-+*/%&|^]=|##|[-+*/%&|^~!<>=?:;,.()[\]{}#])|(?<other>[\s\S])/y;

/**
 * C text as logical lines of tokens, without comments. Source: ISO C11, 5.1.1.2, phases 2 and 3; trigraphs are left as they are.
 */
export function tokenLines(file: string, source: string): TokenLine[] {
  const { text, lineAt } = spliced(withoutComments(source));
  const lines: TokenLine[] = [];
  let start = 0;
  for (const part of text.split('\n')) {
    const line = tokensOf(file, part, (offset) => lineAt(start + offset));
    if (line.length > 0) lines.push(line);
    start += part.length + 1;
  }
  return lines;
}

function tokensOf(file: string, text: string, lineAt: (offset: number) => [number, number]): TokenLine {
  const tokens: TokenLine = [];
  let spaced = false;
  const pattern = new RegExp(PATTERN);
  for (let match = pattern.exec(text); match?.groups && match[0] !== ''; match = pattern.exec(text)) {
    const { blank, name, number, character, string, sign } = match.groups;
    if (blank !== undefined) {
      spaced = true;
      continue;
    }
    const kind: TokenKind =
      character !== undefined
        ? 'character'
        : string !== undefined
          ? 'string'
          : name !== undefined
            ? 'name'
            : number !== undefined
              ? 'number'
              : sign !== undefined
                ? 'sign'
                : 'other';
    const [line, column] = lineAt(match.index);
    tokens.push({ kind, text: match[0], place: { file, line, column }, spaced });
    spaced = false;
  }
  return tokens;
}

/** Comments become blanks of the same shape, so that places stay. Strings and characters are left alone. */
function withoutComments(source: string): string {
  return source
    .replace(/\r\n?/g, '\n')
    .replace(
      /"(?:\\[\s\S]|[^"\\\n])*"|'(?:\\[\s\S]|[^'\\\n])*'|\/\*[\s\S]*?(?:\*\/|$)|\/\/(?:\\\n|[^\n])*/g,
      (found) => (found.startsWith('/') ? found.replace(/[^\n]/g, ' ') : found),
    );
}

/** Joins lines that end with a backslash; `lineAt` gives line and column of a character of the result. */
function spliced(source: string): { text: string; lineAt: (offset: number) => [number, number] } {
  const starts: { at: number; line: number; column: number }[] = [{ at: 0, line: 1, column: 1 }];
  let text = '';
  source.split('\n').forEach((line, index, all) => {
    const goesOn = line.endsWith('\\') && index < all.length - 1;
    text += goesOn ? line.slice(0, -1) : index < all.length - 1 ? `${line}\n` : line;
    starts.push({ at: text.length, line: index + 2, column: 1 });
  });
  const lineAt = (offset: number): [number, number] => {
    let [low, high] = [0, starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((starts[middle]?.at ?? 0) <= offset) low = middle;
      else high = middle - 1;
    }
    const start = starts[low];
    return [start?.line ?? 1, offset - (start?.at ?? 0) + 1];
  };
  return { text, lineAt };
}
