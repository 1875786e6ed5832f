/** XML as a tree: an attribute is a branch with one text. Document types are refused, for they can define entities. */
import { SaxesParser } from 'saxes';
import { fail, ok, type Result } from '../../../base/result';
import { type Branch, TreeBuilder } from './tree';

export function readXmlTree(file: string, text: string): Result<Branch> {
  const tree = new TreeBuilder(file);
  const parser = new SaxesParser({ xmlns: false, position: true });
  const place = (): [number, number] => [parser.line, parser.column + 1];
  parser.on('error', (error) =>
    tree.refuse(...place(), `not valid XML: ${error.message.replace(/^\d+:\d+: /, '')}`),
  );
  parser.on('doctype', () =>
    tree.refuse(...place(), 'document type declarations are not read: they can define entities'),
  );
  parser.on('opentag', ({ name, attributes }) => {
    tree.begin(name, ...place());
    for (const [key, value] of Object.entries(attributes)) {
      tree.begin(key, ...place());
      tree.text(value, ...place());
      tree.end(...place());
    }
  });
  const addText = (content: string): void => {
    if (tree.depth > 0 && content.trim() !== '') tree.text(content.trim(), ...place());
  };
  parser.on('text', addText);
  parser.on('cdata', addText);
  parser.on('closetag', () => tree.end(...place()));
  for (let at = 0; at < text.length && !tree.problem; at += PIECE) parser.write(text.slice(at, at + PIECE));
  if (!tree.problem) parser.close();
  if (tree.problem) return fail(tree.problem);
  return tree.root ? ok(tree.root) : fail({ place: file, message: 'the file is empty' });
}

/** Characters given to the parser at a time, so that it stops soon after the first problem. */
const PIECE = 65_536;
