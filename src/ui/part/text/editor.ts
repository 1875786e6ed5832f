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
import { look, tooltipOf } from '../../parts/text-editor';
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

const tooltipFor = ({ heading, says, facts }: Meaning): HTMLElement =>
  tooltipOf(
    heading,
    says,
    facts.slice(0, 5).map(({ name, value }) => `${name}: ${value}`),
  );

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
      return known && { pos: known.from, end: known.to, create: () => ({ dom: tooltipFor(known.meaning) }) };
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
