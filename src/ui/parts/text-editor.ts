import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import type { Extension } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';

/** What the editors of texts have in common: their look in both themes, their colours, and what hovers over a word. */
export const look = EditorView.theme({
  '&': { height: '100%', backgroundColor: 'var(--sheet)', color: 'var(--ink)', fontSize: '12.5px' },
  '&.cm-focused': { outline: '2px solid var(--pick)', outlineOffset: '-2px' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.5' },
  '.cm-content': { caretColor: 'var(--ink)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-gutters': {
    backgroundColor: 'var(--paper)',
    color: 'var(--soft)',
    borderRight: '1px solid var(--rule)',
  },
  '.cm-activeLine': { backgroundColor: 'var(--hatch)' },
  '.cm-activeLineGutter': { backgroundColor: 'var(--pickbg)', color: 'var(--ink)' },
  '.cm-selectionBackground, &.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground': {
    backgroundColor: 'var(--pickbg)',
  },
  '.cm-selectionMatch': { backgroundColor: 'var(--hatch)', outline: '1px solid var(--rule)' },
  '.cm-matchingBracket, &.cm-focused .cm-matchingBracket': {
    backgroundColor: 'var(--pickbg)',
    outline: '1px solid var(--pick)',
  },
  '.cm-searchMatch': { backgroundColor: 'var(--added)' },
  '.cm-searchMatch-selected': { backgroundColor: 'var(--pickbg)', outline: '1px solid var(--pick)' },
  '.cm-tooltip': { backgroundColor: 'var(--sheet)', color: 'var(--ink)', border: '1px solid var(--ink)' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--pick)',
    color: 'var(--onpick)',
  },
  '.cm-completionDetail': { color: 'inherit', fontStyle: 'normal', float: 'right', paddingLeft: '1em' },
  '.cm-panels': { backgroundColor: 'var(--paper)', color: 'var(--ink)' },
  '.cm-panels button, .cm-panels .cm-button': {
    backgroundImage: 'none',
    backgroundColor: 'var(--sheet)',
    border: '1px solid var(--rule)',
    color: 'var(--ink)',
  },
  '.cm-textfield': { backgroundColor: 'var(--paper)', color: 'var(--ink)', border: '1px solid var(--rule)' },
  '.cm-diagnostic-error': { borderLeft: '4px solid var(--err)' },
  '.cm-lintRange-error': {
    backgroundImage: 'none',
    textDecoration: 'underline wavy var(--err)',
    textUnderlineOffset: '3px',
  },
  '.cm-foldPlaceholder': {
    backgroundColor: 'var(--paper)',
    color: 'var(--soft)',
    border: '1px solid var(--rule)',
  },
});

export const colours: Extension = syntaxHighlighting(
  HighlightStyle.define([
    { tag: tags.keyword, color: 'var(--pick)', fontWeight: '500' },
    { tag: tags.operatorKeyword, color: 'var(--pick)', fontWeight: '400' },
    { tag: tags.number, color: 'var(--c4)' },
    { tag: tags.string, color: 'var(--c3)' },
    { tag: tags.lineComment, color: 'var(--soft)', fontStyle: 'italic' },
    { tag: tags.operator, color: 'var(--soft)' },
  ]),
);

/** What hovers over a word: what it is called, what is said of it, and facts. */
export function tooltipOf(heading: string, says: string | undefined, facts: readonly string[]): HTMLElement {
  const box = document.createElement('div');
  box.className = 'max-w-96 px-2 py-1';
  const add = (text: string, className: string): void => {
    const row = document.createElement('p');
    row.className = className;
    row.textContent = text;
    box.append(row);
  };
  add(heading, 'font-semibold');
  if (says) add(says, '');
  for (const fact of facts) add(fact, 'text-soft');
  return box;
}
