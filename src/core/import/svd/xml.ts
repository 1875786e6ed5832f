import { SaxesParser } from 'saxes';
import { LIMITS, limitText, tooLarge } from '../../base/limits';
import type { Problem } from '../../base/problems';
import { fail, ok, type Result } from '../../base/result';

/** What any element has: its name, the line it begins in, attributes, and the texts of direct children that hold text only. */
export interface Leafy {
  name: string;
  line: number;
  attributes: Readonly<Record<string, string>>;
  /** Name, text, name, text …, `used` of them: a handful, which a map would only make slower. */
  texts: readonly string[];
  used: number;
}

/** An element with more than text in it. Elements that hold text only, nine in ten, are texts of the element around them. */
export interface XmlElement extends Leafy {
  children: readonly XmlElement[];
  /** What became of children that were folded as soon as they had been read. */
  folded: readonly unknown[];
}

/**
 * Elements of one name that are turned into something smaller when they end, so that a large file is never held as a tree. The
 * element handed over is only good during the call.
 */
export interface Fold {
  name: string;
  fold(element: XmlElement): unknown;
}

const DEEPEST = 40;
/** Between two pieces the caller may report progress, or stop. */
export const PIECE = 65_536;

/** An XML file read piece by piece. `done` is between 0 and 1. */
export interface XmlReading {
  /** Reads the next piece. False when nothing is left or something is wrong. */
  step(): boolean;
  done(): number;
  result(): Result<XmlElement>;
}

/**
 * Reads XML safely: document types and with them entities of one's own are refused, and so are files that are too large, too
 * deep or have too many elements. Nothing outside the text is ever looked at.
 */
export function readXml(name: string, text: string, fold?: Fold): XmlReading {
  const problems: Problem[] = [];
  const frames: Frame[] = [];
  let depth = 0;
  let root: XmlElement | undefined;
  let elements = 0;
  let at = 0;
  const parser = new SaxesParser({ xmlns: false, position: true });
  const refuse = (message: string): void => {
    if (problems.length === 0)
      problems.push({ place: `${name}:${parser.line}:${parser.column + 1}`, message });
  };
  if (text.length > LIMITS.registerFileCharacters) refuse(`the file ${tooLarge('registerFileCharacters')}`);
  parser.on('error', (error) => refuse(`not valid XML: ${error.message.replace(/^\d+:\d+: /, '')}`));
  parser.on('doctype', () => refuse('document type declarations are not read: they can define entities'));
  // Looking into the parser's record of attributes costs more than being told that there is one.
  let withAttributes = false;
  parser.on('attribute', () => {
    withAttributes = true;
  });
  parser.on('opentag', ({ name: tag, attributes }) => {
    let open = frames[depth];
    if (!open) {
      open = {
        name: '',
        line: 0,
        text: '',
        attributes: NONE,
        texts: [],
        used: 0,
        children: NO_ELEMENTS,
        folded: NOTHING,
      };
      frames[depth] = open;
    }
    open.name = tag;
    open.line = parser.line;
    open.text = '';
    open.attributes = withAttributes ? (attributes as Record<string, string>) : NONE;
    withAttributes = false;
    open.used = 0;
    open.children = NO_ELEMENTS;
    open.folded = NOTHING;
    depth++;
    if (depth > DEEPEST) refuse(`nested deeper than ${DEEPEST} elements`);
    if (++elements > LIMITS.xmlElements) refuse(`more than ${limitText('xmlElements')}`);
  });
  const addText = (part: string): void => {
    const open = frames[depth - 1];
    if (open) open.text = open.text === '' ? part : open.text + part;
  };
  parser.on('text', (part) => {
    // Text between elements is layout only; most of it is white space.
    if (part.charCodeAt(0) > 32 || part.trim() !== '') addText(part);
  });
  parser.on('cdata', addText);
  parser.on('closetag', () => {
    depth--;
    const closed = frames[depth];
    const around = frames[depth - 1];
    if (!closed) return;
    if (!around) root = elementOf(closed);
    else if (closed.name === fold?.name) add(around, 'folded', fold.fold(closed));
    else if (
      closed.used > 0 ||
      closed.children.length + closed.folded.length > 0 ||
      closed.attributes !== NONE
    )
      add(around, 'children', elementOf(closed));
    else {
      around.texts[around.used++] = closed.name;
      around.texts[around.used++] = closed.text;
    }
  });
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

const NONE: Readonly<Record<string, string>> = Object.freeze({});
const NO_ELEMENTS: XmlElement[] = [];
const NOTHING: unknown[] = [];

/** What is known of an element while it is open. One for each depth, used again and again. */
interface Frame extends XmlElement {
  text: string;
  texts: string[];
  children: XmlElement[];
  folded: unknown[];
}

/** Adds to a list that is shared and empty until somebody needs one of his own. */
function add<Key extends 'children' | 'folded'>(frame: Frame, key: Key, item: Frame[Key][number]): void {
  const list = frame[key] as unknown[];
  if (list.length > 0) list.push(item);
  else (frame as Record<Key, unknown>)[key] = [item];
}

const elementOf = ({ name, line, attributes, texts, used, children, folded }: Frame): XmlElement => ({
  name,
  line,
  attributes,
  texts: texts.slice(0, used),
  used,
  children,
  folded,
});

/** Text of a direct child, trimmed, of several the first; undefined when there is none. */
export function childText({ texts, used }: Leafy, name: string): string | undefined {
  for (let i = 0; i < used; i += 2) if (texts[i] === name) return texts[i + 1]?.trim();
  return undefined;
}
