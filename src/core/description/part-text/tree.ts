import type { Problems } from '../../base/problems';
import { didYouMean } from '../../base/text/near';
import { Cursor, Marks, Mistake } from './cursor';
import { type Json, type LineForm, readLine } from './forms';
import { linesOf, type TextLine } from './lines';
import { PART_LINES } from './part';

/** Lines of a text as forms read them, with the comments that stand at them. */
export interface Node {
  line: TextLine;
  /** Missing where the line is not understood. */
  form?: LineForm;
  item?: Json;
  children: Node[];
}

export interface Tree {
  nodes: Node[];
  /** Comments after the last line. */
  below: string[];
  marks: Marks;
}

/** The form of a line: that with its keyword (the longest), or the one without. */
export function formFor(forms: readonly LineForm[], cursor: Cursor): LineForm | undefined {
  const start = cursor.at;
  const word = cursor.peekWord() ?? '';
  let form: LineForm | undefined;
  for (const each of forms) {
    const { keyword } = each;
    if (keyword === undefined || !keyword.startsWith(word)) continue;
    if (cursor.take(keyword) && keyword.length > (form?.keyword?.length ?? 0)) form = each;
    cursor.at = start;
  }
  return form ?? forms.find(({ keyword }) => keyword === undefined);
}

/** The forms of lines that stand under others, by the texts of those from the outermost on. */
export function formsUnder(above: readonly string[]): readonly LineForm[] {
  let forms: readonly LineForm[] = PART_LINES;
  for (const text of above)
    forms = formFor(forms, new Cursor(text, 0, text.length, new Marks()))?.children ?? [];
  return forms;
}

function formOf(forms: readonly LineForm[], cursor: Cursor): LineForm {
  const form = formFor(forms, cursor);
  if (form) return form;
  const { at: start } = cursor;
  const word = cursor.peekWord() ?? '';
  const known = forms.flatMap(({ keyword }) => keyword ?? []);
  const sameLetters = known.find((each) => each === word.toLowerCase());
  const meant = sameLetters ? `; did you mean ${sameLetters}?` : didYouMean(word, known);
  throw new Mistake(
    `no line begins with ${cursor.next()}${meant}; lines begin with ${known.join(', ')}, and what belongs to a line is indented under it`,
    start,
  );
}

/** Where a line is wrong, and nothing says which word was meant, one that is right helps on. */
const withExample = (message: string, form: LineForm | undefined): string =>
  form && !message.includes('did you mean') ? `${message}; for example: ${form.example}` : message;

/** A text → its lines. Each line that is not understood is a problem, and the others are read all the same. */
export function readTree(text: string, placeAt: (at: number) => string, problems: Problems): Tree {
  const marks = new Marks();
  const { lines, below, wrong } = linesOf(text);
  for (const { at, message } of wrong) problems.push({ place: placeAt(at), message });
  const read = (line: TextLine, forms: readonly LineForm[]): Node => {
    // A string without an end is told by itself; what comes of the line means nothing.
    if (problems.full || line.broken) return { line, children: [] };
    let form: LineForm | undefined;
    try {
      const cursor = new Cursor(text, line.start, line.end, marks);
      form = formOf(forms, cursor);
      const item = readLine(form, cursor);
      const inner = form.children;
      if (line.children.length > 0 && !inner)
        throw new Mistake(
          `nothing stands under the line of ${form.says}; is it indented by mistake?`,
          line.children[0]?.start ?? line.start,
        );
      return { line, form, item, children: line.children.map((each) => read(each, inner ?? [])) };
    } catch (error) {
      if (!(error instanceof Mistake)) throw error;
      problems.push({ place: placeAt(error.at), message: withExample(error.message, form) });
      return { line, children: [] };
    }
  };
  return { nodes: lines.map((line) => read(line, PART_LINES)), below, marks };
}

/** Puts what lines say where the exchange format has it. */
export function gather({ nodes, marks }: Tree, placeAt: (at: number) => string, problems: Problems): Json {
  const root: Json = Object.create(null);
  const put = ({ form, item, line, children }: Node, parent: Json): void => {
    if (!form || !item) return;
    for (const child of children) put(child, item);
    try {
      form.target.put({ marks }, parent, item, line.start);
    } catch (error) {
      if (!(error instanceof Mistake)) throw error;
      problems.push({ place: placeAt(error.at), message: error.message });
    }
  };
  for (const node of nodes) put(node, root);
  return root;
}
