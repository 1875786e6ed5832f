import {
  acceptCompletion,
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  closeCompletion,
  completionKeymap,
  completionStatus,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching, indentService, LanguageSupport, LRLanguage } from '@codemirror/language';
import { type Diagnostic, lintKeymap } from '@codemirror/lint';
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
import { EditorSelection, EditorState, type Extension } from '@codemirror/state';
import { drawSelection, EditorView, hoverTooltip, keymap, lineNumbers } from '@codemirror/view';
import { styleTags, tags } from '@lezer/highlight';
import { type Completion, completionsFor } from '@/core/bench/script/complete';
import { meaningInScript, type WordMeaning } from '@/core/bench/script/meaning';
import { namesIn } from '@/core/bench/script/names';
import type { ScriptProblem } from '@/core/bench/script/steps';
import type { Derived } from '@/core/derive/derive';
import { colours, look, tooltipOf } from '../../parts/text-editor';
import { parser } from './trial-text-parser';

/** The editor of a trial: colours by the grammar; what words mean, and what could come next, by the forms of steps and the plan. */
export interface TrialEditorEvents {
  label: string;
  /** The plan as it is now. */
  derived(): Derived;
  changed(text: string): void;
}

const language = LRLanguage.define({
  name: 'trial',
  parser: parser.configure({
    props: [
      styleTags({
        Keyword: tags.keyword,
        Setting: tags.operatorKeyword,
        Number: tags.number,
        Quoted: tags.string,
        Comment: tags.lineComment,
        Operator: tags.operator,
      }),
    ],
  }),
  languageData: { commentTokens: { line: '#' } },
});

/** A new line stands as deep as the one before it, and deeper after the colon of a repetition. */
const indentation = indentService.of((context, at) => {
  const { text } = context.lineAt(at, -1);
  return context.lineIndent(at, -1) + (/:\s*$/.test(text) ? 2 : 0);
});

const linesOf = (state: EditorState): string[] => state.doc.toString().split('\n');

export function trialExtensions({ label, derived, changed }: TrialEditorEvents): Extension[] {
  const meaningAt = (state: EditorState, at: number): (WordMeaning & { start: number }) | undefined => {
    const line = state.doc.lineAt(at);
    const meaning = meaningInScript(derived(), linesOf(state), line.number - 1, at - line.from);
    return meaning && { ...meaning, start: line.from };
  };
  /** What the word at a place could become, and where that word begins. Words complete at the end of a line, and before a space. */
  const offersAt = (state: EditorState, at: number): { from: number; list: Completion[] } => {
    const line = state.doc.lineAt(at);
    const { from, list } = completionsFor(line.text.slice(0, at - line.from), namesIn(derived()));
    return { from: line.from + from, list: /^(\s|$)/.test(line.text.slice(at - line.from)) ? list : [] };
  };
  const take = (view: EditorView, { text }: Completion, from: number, to: number): void => {
    const after = view.state.doc.sliceString(to, to + 1) === ' ' ? 1 : 0;
    view.dispatch({
      changes: { from, to: to + after, insert: `${text} ` },
      selection: { anchor: from + text.length + 1 },
      userEvent: 'input.complete',
    });
  };
  const complete = ({ state, pos, explicit }: CompletionContext): CompletionResult | null => {
    const { text, from: start } = state.doc.lineAt(pos);
    if (text.slice(0, pos - start).trim() === '' && !explicit) return null;
    const { from, list } = offersAt(state, pos);
    if (list.length === 0) return null;
    return {
      from,
      options: list.map((offer, at) => ({
        label: offer.text,
        detail: offer.says,
        // In the order of the forms: what is likely comes first.
        boost: -at,
        apply: (view, _completion, begin, end) => take(view, offer, begin, end),
      })),
      filter: false,
    };
  };
  /** Takes the first offer where those for what was typed last are still on their way. */
  const takeFirst = (view: EditorView): boolean => {
    if (completionStatus(view.state) !== 'pending') return false;
    const { head } = view.state.selection.main;
    const { from, list } = offersAt(view.state, head);
    const [first] = list;
    if (!first) return false;
    closeCompletion(view);
    take(view, first, from, head);
    return true;
  };
  /** All places of what a repetition counts: to go to where it is named, and to name it otherwise in all of them at once. */
  const usesAt = (view: EditorView): { from: number; to: number }[] => {
    const uses = meaningAt(view.state, view.state.selection.main.head)?.uses ?? [];
    return uses.map(({ line, from, to }) => {
      const start = view.state.doc.line(line + 1).from;
      return { from: start + from, to: start + to };
    });
  };
  return [
    lineNumbers(),
    history(),
    drawSelection(),
    bracketMatching(),
    highlightSelectionMatches(),
    search({ top: true }),
    EditorState.allowMultipleSelections.of(true),
    EditorView.lineWrapping,
    EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
    // Enter ends the line, as always; Tab takes what is offered.
    autocompletion({
      override: [complete],
      icons: false,
      maxRenderedOptions: 30,
      defaultKeymap: false,
      interactionDelay: 0,
    }),
    hoverTooltip((view, at) => {
      const meaning = meaningAt(view.state, at);
      if (!meaning) return null;
      const { start, from, to, heading, facts } = meaning;
      return {
        pos: start + from,
        end: start + to,
        create: () => ({ dom: tooltipOf(heading, undefined, facts) }),
      };
    }),
    keymap.of([
      { key: 'Tab', run: (view) => takeFirst(view) || acceptCompletion(view) },
      {
        key: 'F12',
        run: (view) => {
          const [named] = usesAt(view);
          if (!named) return false;
          view.dispatch({ selection: { anchor: named.from, head: named.to }, scrollIntoView: true });
          return true;
        },
      },
      {
        key: 'F2',
        run: (view) => {
          const places = usesAt(view);
          if (places.length === 0) return false;
          const ranges = places.map(({ from, to }) => EditorSelection.range(from, to));
          view.dispatch({ selection: EditorSelection.create(ranges) });
          return true;
        },
      },
      ...completionKeymap.filter(({ key }) => key !== 'Enter'),
      ...searchKeymap,
      ...historyKeymap,
      ...lintKeymap,
      ...defaultKeymap,
    ]),
    EditorView.updateListener.of((update) => {
      if (update.docChanged) changed(update.state.doc.toString());
    }),
    new LanguageSupport(language, [colours, indentation]),
    look,
  ];
}

/** Problems of a script at their places in the text. */
export const trialDiagnostics = (state: EditorState, problems: readonly ScriptProblem[]): Diagnostic[] =>
  problems.flatMap(({ line, from, to, message }) => {
    if (line >= state.doc.lines) return [];
    const row = state.doc.line(line + 1);
    const start = Math.min(row.from + from, row.to);
    const end = Math.min(Math.max(row.from + to, start + 1), row.to);
    return [{ from: start < end ? start : row.from, to: end, severity: 'error' as const, message }];
  });
