/** A word of a line of a script, and where it stands (0-based). */
export interface Word {
  kind: 'word' | 'number' | 'symbol' | 'name';
  /** As written; of a name without its quotes or braces. */
  text: string;
  from: number;
  to: number;
  /** A name that stands for a net or bus by its id. */
  byId?: true;
}

const WORD =
  /\s*(?:("[^"]*"?)|(\{[^}]*\}?)|(0[xX][0-9A-Fa-f]+|0[bB][01]+|\d+(?:\.\d+)?)|([\p{L}_][\p{L}\p{N}_./#-]*|%)|(<<|>>|[-+*/&|^~()=<>:;,]))/uy;

/** Splits a line into words, up to a comment; `bad` is where it holds something that no script has. */
export function wordsOf(line: string): { words: Word[]; bad?: number } {
  const words: Word[] = [];
  const end = commentAt(line);
  for (let at = 0; at < end; ) {
    WORD.lastIndex = at;
    const match = WORD.exec(line);
    if (!match || match[0].length === 0 || WORD.lastIndex > end) {
      const rest = line.slice(at, end);
      if (rest.trim() === '') break;
      return { words, bad: at + (rest.length - rest.trimStart().length) };
    }
    const [whole, quoted, braced, number, word] = match;
    const text = whole.trimStart();
    const to = WORD.lastIndex;
    const from = to - text.length;
    if (quoted !== undefined) words.push({ kind: 'name', text: quoted.replace(/^"|"$/g, ''), from, to });
    else if (braced !== undefined)
      words.push({ kind: 'name', text: braced.replace(/^\{|\}$/g, ''), from, to, byId: true });
    else
      words.push({
        kind: number !== undefined ? 'number' : word !== undefined ? 'word' : 'symbol',
        text,
        from,
        to,
      });
    at = to;
  }
  return { words };
}

/** Where the comment of a line begins: at a `#` that is no part of a name; its length where there is none. */
export function commentAt(line: string): number {
  let quoted = false;
  for (let at = 0; at < line.length; at++) {
    if (line[at] === '"') quoted = !quoted;
    if (line[at] === '#' && !quoted && (at === 0 || /\s/.test(line[at - 1] as string))) return at;
  }
  return line.length;
}

/** Whether a name can be written without quotes. */
export const isPlainName = (name: string): boolean => /^[\p{L}_][\p{L}\p{N}_./#-]*$/u.test(name);
