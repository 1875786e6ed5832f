/** S-expressions: `(head item "text" (head …))`, read from left to right with a stack of open brackets. */
import { fail, ok, type Result } from '../../../base/result';
import { isBlank, type Meter } from '../../../base/text/scan';
import { type Branch, TreeBuilder } from './tree';

/** A quote inside a text stands after a backslash. EDIF knows no backslashes, and no quotes inside a text either. */
export function readExpressions(file: string, text: string, meter: Meter): Result<Branch> {
  const tree = new TreeBuilder(file);
  let line = 1;
  let lineStart = 0;
  let at = 0;
  while (at < text.length && !tree.problem) {
    const char = text[at] as string;
    const column = at - lineStart + 1;
    const start = at;
    at++;
    if (char === '\n') {
      line++;
      lineStart = at;
    } else if (char === '(') tree.begin('', line, column);
    else if (char === ')') tree.end(line, column);
    else if (char === '"') {
      let value = '';
      let from = at;
      while (at < text.length && text[at] !== '"') {
        if (text[at] === '\\' && (text[at + 1] === '"' || text[at + 1] === '\\')) {
          value += text.slice(from, at);
          from = ++at;
        } else if (text[at] === '\n') {
          line++;
          lineStart = at + 1;
        }
        at++;
      }
      if (at >= text.length) tree.refuse(line, column, 'a text is opened and not closed');
      value += text.slice(from, at);
      at++;
      tree.text(value, line, column);
    } else if (!isBlank(char)) {
      while (at < text.length && !ENDS_ATOM.has(text[at] as string)) at++;
      tree.text(text.slice(start, at), line, column);
    }
    meter.steps += at - start;
  }
  if (!tree.problem && tree.depth > 0)
    tree.refuse(
      line,
      Math.max(1, text.length - lineStart),
      'the file ends inside brackets; it may be cut off',
    );
  if (tree.problem) return fail(tree.problem);
  return tree.root ? ok(tree.root) : fail({ place: file, message: 'the file is empty' });
}

const ENDS_ATOM: ReadonlySet<string> = new Set(['(', ')', '"', ' ', '\t', '\n', '\r', '\f', '\v']);
