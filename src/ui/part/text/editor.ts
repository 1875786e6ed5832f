import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  closeBrackets,
  completionKeymap,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching, foldGutter, foldKeymap, indentUnit } from '@codemirror/language';
import { type Diagnostic, lintGutter, lintKeymap } from '@codemirror/lint';
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
import { EditorState, type Extension } from '@codemirror/state';
import {
  drawSelection,
  EditorView,
  highlightActiveLine,
  hoverTooltip,
  keymap,
  lineNumbers,
} from '@codemirror/view';
import type { Problem } from '@/core/base/problems';
import { completionsAt } from '@/core/description/part-text/symbols';
import type { Meaning } from '@/core/part-meaning/meaning';
import { partLanguage } from './part-language';

/** The editor of a part's text: its look, its keys, and what it asks the core. */
export interface EditorEvents {
  changed(): void;
  moved(at: number): void;
  define(): void;
  rename(): void;
  format(): void;
  store(): void;
  meaningAt(at: number): Promise<{ from: number; to: number; meaning: Meaning } | null>;
}

const look = EditorView.theme({
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

const KINDS: Readonly<Record<string, string>> = { word: '', register: 'register', value: 'value' };

function complete(context: CompletionContext): CompletionResult | null {
  const offered = completionsAt(context.state.doc.toString(), context.pos);
  if (!offered || offered.options.length === 0) return null;
  if (!context.explicit && offered.from === context.pos) return null;
  return {
    from: offered.from,
    options: offered.options.map(({ label, kind }) => ({ label, detail: KINDS[kind] ?? kind })),
    validFor: /^[\w.{}*|-]*$/,
  };
}

function tooltipOf(meaning: Meaning): HTMLElement {
  const box = document.createElement('div');
  box.className = 'max-w-96 px-2 py-1';
  const add = (text: string, className: string): void => {
    const row = document.createElement('p');
    row.className = className;
    row.textContent = text;
    box.append(row);
  };
  add(meaning.heading, 'font-semibold');
  if (meaning.says) add(meaning.says, '');
  for (const { name, value } of meaning.facts.slice(0, 5)) add(`${name}: ${value}`, 'text-soft');
  return box;
}

export function editorExtensions(events: EditorEvents, readOnly: boolean): Extension[] {
  const run = (act: () => void) => (): boolean => {
    act();
    return true;
  };
  return [
    lineNumbers(),
    foldGutter(),
    history(),
    drawSelection(),
    indentUnit.of('  '),
    EditorState.readOnly.of(readOnly),
    EditorView.contentAttributes.of({ 'aria-label': 'Text of the part', spellcheck: 'false', tabindex: '0' }),
    bracketMatching(),
    closeBrackets(),
    highlightActiveLine(),
    highlightSelectionMatches(),
    search({ top: true }),
    lintGutter(),
    autocompletion({ override: [complete], icons: false }),
    hoverTooltip(async (_view, at) => {
      const known = await events.meaningAt(at);
      return known && { pos: known.from, end: known.to, create: () => ({ dom: tooltipOf(known.meaning) }) };
    }),
    keymap.of([
      { key: 'F12', run: run(events.define) },
      { key: 'F2', run: run(events.rename) },
      { key: 'Shift-Alt-f', run: run(events.format) },
      { key: 'Mod-s', run: run(events.store), preventDefault: true },
      ...completionKeymap,
      ...searchKeymap,
      ...historyKeymap,
      ...foldKeymap,
      ...lintKeymap,
      ...defaultKeymap,
    ]),
    EditorView.updateListener.of((update) => {
      if (update.docChanged) events.changed();
      if (update.docChanged || update.selectionSet) events.moved(update.state.selection.main.head);
    }),
    partLanguage(),
    look,
  ];
}

/** Problems at their places: from there to the end of the word, or of the line where none begins. */
export function diagnosticsOf(state: EditorState, problems: readonly Problem[]): Diagnostic[] {
  return problems.map(({ place, message }): Diagnostic => {
    const [, row = '1', column = '1'] = /^[^:]*:(\d+):(\d+)/.exec(place) ?? [];
    const line = state.doc.line(Math.min(Number(row), state.doc.lines));
    const from = Math.min(line.from + Number(column) - 1, line.to);
    const word = /^[\w.{}*-]+/.exec(state.doc.sliceString(from, line.to))?.[0].length ?? 0;
    const to = word > 0 ? from + word : Math.max(from, line.to);
    return { from: from === to ? line.from : from, to, severity: 'error', message };
  });
}
