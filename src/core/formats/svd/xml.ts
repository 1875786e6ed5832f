import { SaxesParser } from 'saxes';
import { fail, ok, type Problem, type Result } from '../../result';

/** An element with its text, children and the line it begins in; attributes as they are. */
export interface Element {
  name: string;
  line: number;
  text: string;
  attributes: Record<string, string>;
  children: Element[];
}

export const LARGEST_XML_CHARACTERS = 40_000_000;
const DEEPEST = 40;
const MOST_ELEMENTS = 3_000_000;
/** Between two pieces the caller may report progress, or stop. */
const PIECE = 65_536;

/** An XML file read piece by piece. `done` is between 0 and 1. */
export interface XmlReading {
  /** Reads the next piece. False when nothing is left or something is wrong. */
  step(): boolean;
  done(): number;
  result(): Result<Element>;
}

/**
 * Reads XML safely: document types and with them entities of one's own are refused, and so are files that are too large, too
 * deep or have too many elements. Nothing outside the text is ever looked at.
 */
export function readXml(name: string, text: string): XmlReading {
  const problems: Problem[] = [];
  const stack: Element[] = [];
  let root: Element | undefined;
  let elements = 0;
  let at = 0;
  const parser = new SaxesParser({ xmlns: false, position: true });
  const refuse = (message: string): void => {
    if (problems.length === 0)
      problems.push({ place: `${name}:${parser.line}:${parser.column + 1}`, message });
  };
  if (text.length > LARGEST_XML_CHARACTERS)
    refuse(`the file is larger than ${LARGEST_XML_CHARACTERS / 1_000_000} MB`);
  parser.on('error', (error) => refuse(`not valid XML: ${error.message.replace(/^\d+:\d+: /, '')}`));
  parser.on('doctype', () => refuse('document type declarations are not read: they can define entities'));
  parser.on('opentag', ({ name: tag, attributes }) => {
    const element: Element = {
      name: tag,
      line: parser.line,
      text: '',
      attributes: attributes as Record<string, string>,
      children: [],
    };
    const parent = stack.at(-1);
    if (parent) parent.children.push(element);
    else root = element;
    stack.push(element);
    if (stack.length > DEEPEST) refuse(`nested deeper than ${DEEPEST} elements`);
    if (++elements > MOST_ELEMENTS) refuse(`more than ${MOST_ELEMENTS} elements`);
  });
  parser.on('text', (part) => {
    const element = stack[stack.length - 1];
    // Text between elements is layout only.
    if (element && element.children.length === 0) element.text += part;
  });
  parser.on('cdata', (part) => {
    const element = stack[stack.length - 1];
    if (element) element.text += part;
  });
  parser.on('closetag', () => stack.pop());
  return {
    step() {
      if (problems.length > 0 || at > text.length) return false;
      if (at === text.length) {
        at++;
        parser.close();
        return false;
      }
      const end = Math.min(at + PIECE, text.length);
      parser.write(text.slice(at, end));
      at = end;
      return problems.length === 0;
    },
    done: () => Math.min(1, at / Math.max(1, text.length)),
    result() {
      if (problems.length > 0) return fail(...problems);
      return root ? ok(root) : fail({ place: name, message: 'the file is empty' });
    },
  };
}

/** Text of a direct child, trimmed; undefined when there is none. */
export function childText(element: Element, name: string): string | undefined {
  for (const child of element.children) if (child.name === name) return child.text.trim();
  return undefined;
}
