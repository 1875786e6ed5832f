/**
 * C tokens of a text as a compiler sees them: translation phases 1 to 3 of ISO/IEC 9899:2011, 5.1.1.2, written without regard
 * to how the text was made. Trigraphs are replaced, lines spliced, comments become blanks. Throws on what is left open.
 */
export interface CToken {
  kind: 'word' | 'number' | 'string' | 'sign';
  text: string;
}

const TRIGRAPHS: Record<string, string> = {
  '=': '#',
  '(': '[',
  '/': '\\',
  ')': ']',
  "'": '^',
  '<': '{',
  '!': '|',
  '>': '}',
  '-': '~',
};

export function cTokens(source: string): CToken[] {
  const text = source
    .replace(/\?\?([=(/)'<!>-])/g, (_all, last: string) => TRIGRAPHS[last] ?? '')
    .replace(/\\[ \t]*\r?\n/g, '');
  const tokens: CToken[] = [];
  let at = 0;
  while (at < text.length) {
    const rest = text[at] ?? '';
    if (/\s/.test(rest)) {
      // The end of a line ends a directive.
      if (rest === '\n' && tokens.at(-1)?.text !== '\n') tokens.push({ kind: 'sign', text: '\n' });
      at++;
    } else if (text.startsWith('/*', at)) {
      const end = text.indexOf('*/', at + 2);
      if (end < 0) throw new Error('a comment is left open');
      at = end + 2;
    } else if (text.startsWith('//', at)) {
      const end = text.indexOf('\n', at);
      at = end < 0 ? text.length : end;
    } else if (rest === '"' || rest === "'") {
      let end = at + 1;
      while (text[end] !== rest) {
        if (end >= text.length || text[end] === '\n') throw new Error('a string is left open');
        end += text[end] === '\\' ? 2 : 1;
      }
      tokens.push({ kind: 'string', text: text.slice(at, end + 1) });
      at = end + 1;
    } else {
      const word = /[A-Za-z_]\w*/y;
      word.lastIndex = at;
      const number = /\d[\w.]*/y;
      number.lastIndex = at;
      const found = word.exec(text)?.[0];
      const figure = found === undefined ? number.exec(text)?.[0] : undefined;
      tokens.push(
        found !== undefined
          ? { kind: 'word', text: found }
          : figure !== undefined
            ? { kind: 'number', text: figure }
            : { kind: 'sign', text: rest },
      );
      at += (found ?? figure ?? rest).length;
    }
  }
  return tokens;
}

/** The value of a string literal, as bytes of UTF-8. */
export function stringValue(literal: string): string {
  const bytes: number[] = [];
  const inner = literal.slice(1, -1);
  for (let at = 0; at < inner.length; at++) {
    const octal = /\\([0-7]{1,3})/y;
    octal.lastIndex = at;
    const found = octal.exec(inner);
    if (!found) bytes.push(inner.charCodeAt(at));
    else {
      bytes.push(Number.parseInt(found[1] ?? '0', 8));
      at += found[0].length - 1;
    }
  }
  return new TextDecoder().decode(Uint8Array.from(bytes));
}
