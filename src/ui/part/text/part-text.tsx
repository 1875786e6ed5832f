'use client';

import { setDiagnostics } from '@codemirror/lint';
import { EditorState, Transaction } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { onTables } from '@/core/description/on-tables';
import {
  isRenamable,
  type Occurrence,
  occurrenceAt,
  renamed,
  symbolsOf,
  usesOf,
} from '@/core/description/part-text/symbols';
import { formatPartText, readPartText } from '@/core/description/part-text/text-form';
import { printDevice } from '@/core/description/print-device';
import type { RecipeFile } from '@/core/description/recipe-file';
import type { Device } from '@/core/device/device';
import type { PartSummary } from '@/core/device/part-facts';
import { recipeTextOf } from '@/core/import/compose/print-tables';
import type { Meaning } from '@/core/part-meaning/meaning';
import { api } from '../../client/api';
import { type PartTextReader, startPartText } from '../../client/part-text-worker';
import { ProblemAlert } from '../../parts/problem-alert';
import { useLeaveGuard } from '../../parts/use-leave-guard';
import { useMay } from '../../people/me';
import { DescribeAgain } from './describe-again';
import { diagnosticsOf, editorExtensions } from './editor';
import { MeaningPane, type UseLine } from './meaning-pane';

/** How long nobody types before the text is read, and before all of the part is loaded. */
const READ_MS = 150;
const LOAD_MS = 600;

type State = 'good' | 'wrong' | 'checking';

/** What keys of the editor do. */
type Acts = Record<'define' | 'rename' | 'format' | 'store', () => void>;
const nothing = (): void => undefined;

/** Everything of a part but its tables, as text that can be edited: errors at their place, and beside it what it means. */
export function PartText({ device, summary }: { device: Device; summary: PartSummary }) {
  const router = useRouter();
  const mayEdit = useMay('edit');
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const stored = useRef('');
  const file = useRef<RecipeFile | null>(null);
  const asked = useRef<PartTextReader | null>(null);
  const [reader, setReader] = useState<PartTextReader | null>(null);
  const [state, setState] = useState<State>('good');
  const [problems, setProblems] = useState<Problem[]>([]);
  const [refused, setRefused] = useState<Problem[]>([]);
  const [changed, setChanged] = useState(false);
  const [chosen, setChosen] = useState<Occurrence | undefined>();
  const [meaning, setMeaning] = useState<Meaning | null>(null);
  const [uses, setUses] = useState<UseLine[]>([]);
  const [version, setVersion] = useState(0);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [comparing, setComparing] = useState(false);
  const name = `${summary.id}.part`;
  useLeaveGuard(changed);

  const show = useCallback((list: Problem[]): void => {
    setProblems(list);
    setState(list.length > 0 ? 'wrong' : 'good');
    const editor = view.current;
    if (editor) editor.dispatch(setDiagnostics(editor.state, diagnosticsOf(editor.state, list)));
  }, []);

  /** Reads the text, has the schema look at it, and loads the part; what is typed meanwhile begins anew. */
  const check = useRef<() => void>(() => undefined);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(() => {
    if (!reader) return;
    check.current = () => {
      clearTimeout(timer.current);
      setState('checking');
      file.current = null;
      timer.current = setTimeout(() => {
        const text = view.current?.state.doc.toString() ?? '';
        const isCurrent = (): boolean => view.current?.state.doc.toString() === text;
        const read = readPartText(name, text, 'recipe');
        if (!read.ok) return show(read.problems);
        if (!mayEdit) return;
        timer.current = setTimeout(async () => {
          const held = await api.readRecipe(name, text);
          if (!isCurrent()) return;
          if (!held.ok) return show(held.problems);
          const list = await reader.check(name, text, held.value);
          if (!isCurrent() || !list) return;
          if (list.length === 0) file.current = held.value;
          show(list);
          setVersion((old) => old + 1);
        }, LOAD_MS);
      }, READ_MS);
    };
    // What was typed while the stored part was read anew has been waiting.
    if (view.current && view.current.state.doc.toString() !== stored.current) check.current();
    return () => clearTimeout(timer.current);
  }, [reader, name, mayEdit, show]);

  const lookAt = useCallback((at: number): void => {
    const editor = view.current;
    if (!editor) return;
    const symbols = symbolsOf(editor.state.doc.toString());
    const row = editor.state.doc.lineAt(at);
    // Beside all names, the line is about what it defines.
    const occurrence =
      occurrenceAt(symbols, at) ??
      symbols.occurrences.find((each) => each.defines && each.from >= row.from && each.to <= row.to);
    setChosen(occurrence);
    setUses(
      occurrence
        ? usesOf(symbols, occurrence.key).map(({ from, defines }) => {
            const line = editor.state.doc.lineAt(from);
            return { at: from, line: line.number, text: line.text.trim(), defines };
          })
        : [],
    );
  }, []);

  useEffect(() => {
    const opened = startPartText(device.original);
    asked.current = opened;
    setReader(opened);
    return () => opened.close();
  }, [device.original]);

  const acts = useRef<Acts>({ define: nothing, rename: nothing, format: nothing, store: nothing });

  // What is stored now; whoever edits goes on with the text as it is.
  useEffect(() => {
    stored.current = recipeTextOf(device.original);
    setChanged(view.current !== null && view.current.state.doc.toString() !== stored.current);
  }, [device.original]);

  useEffect(() => {
    if (!place.current) return;
    const editor = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: stored.current,
        extensions: editorExtensions(
          {
            changed: () => {
              setChanged(view.current?.state.doc.toString() !== stored.current);
              check.current();
            },
            moved: (at) => lookAt(at),
            define: () => acts.current.define(),
            rename: () => acts.current.rename(),
            format: () => acts.current.format(),
            store: () => acts.current.store(),
            meaningAt: async (at) => {
              const occurrence = occurrenceAt(symbolsOf(view.current?.state.doc.toString() ?? ''), at);
              const known = occurrence && (await asked.current?.meaning(occurrence.key));
              return occurrence && known
                ? { from: occurrence.from, to: occurrence.to, meaning: known }
                : null;
            },
          },
          !mayEdit,
        ),
      }),
    });
    view.current = editor;
    return () => {
      editor.destroy();
      view.current = null;
    };
  }, [mayEdit, lookAt]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another version of the part may mean something else
  useEffect(() => {
    let current = true;
    if (!chosen || !reader) setMeaning(null);
    else
      void reader.meaning(chosen.key).then((answer) => {
        if (current) setMeaning(answer);
      });
    return () => {
      current = false;
    };
  }, [reader, chosen?.key, version]);

  const go = (at: number): void => {
    view.current?.dispatch({
      selection: { anchor: at },
      effects: EditorView.scrollIntoView(at, { y: 'center' }),
    });
    view.current?.focus();
  };

  function format(): void {
    const editor = view.current;
    if (!editor) return;
    const text = editor.state.doc.toString();
    const formatted = formatPartText(name, text);
    if (!formatted.ok) show(formatted.problems);
    else if (formatted.value !== text)
      editor.dispatch({
        changes: { from: 0, to: text.length, insert: formatted.value },
        annotations: Transaction.userEvent.of('format'),
      });
  }

  function rename(to: string): void {
    const editor = view.current;
    if (!editor || !chosen) return;
    const changes = renamed(editor.state.doc.toString(), chosen.from, to);
    if (!changes.ok) {
      setRefused(changes.problems);
      return;
    }
    setRefused([]);
    setRenaming(null);
    editor.dispatch({ changes: changes.value });
    editor.focus();
  }

  async function store(): Promise<void> {
    const next = file.current;
    if (!next || busy || !changed) return;
    setBusy(true);
    const description = onTables(device.original, next);
    const isSame = description.id === summary.id;
    const answer = await api.storePart(
      `${description.id}.device.json`,
      printDevice(description),
      isSame ? summary.revision : 0,
    );
    setBusy(false);
    if (!answer.ok) {
      setRefused(answer.problems);
      return;
    }
    setChanged(false);
    stored.current = view.current?.state.doc.toString() ?? '';
    if (isSame) router.refresh();
    else router.push(`/parts/${description.id}?tab=text`);
  }

  acts.current = {
    define: () => {
      const text = view.current?.state.doc.toString() ?? '';
      const definition = chosen && symbolsOf(text).definitions.get(chosen.key);
      if (definition) go(definition.from);
    },
    rename: () => {
      if (chosen && mayEdit && isRenamable(chosen)) setRenaming(chosen.name);
    },
    format,
    store: () => void store(),
  };

  const words =
    state === 'checking'
      ? 'reading …'
      : state === 'wrong'
        ? `${problems.length} ${problems.length === 1 ? 'problem' : 'problems'}`
        : 'loads, and all its settings have bits of their own';
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-6 py-1.5">
        <span role="status" className={`mr-auto ${state === 'wrong' ? 'text-err' : 'text-soft'}`}>
          {words}
          {changed && state !== 'checking' ? ' · changed, not stored' : ''}
        </span>
        {renaming !== null && chosen && (
          <form
            className="flex items-center gap-1"
            onSubmit={(event) => {
              event.preventDefault();
              rename(renaming.trim());
            }}
          >
            <label>
              rename {chosen.role} <span className="m">{chosen.name}</span> to{' '}
              <input
                // biome-ignore lint/a11y/noAutofocus: whoever renames types the name next
                autoFocus
                className="m w-32"
                value={renaming}
                onChange={(event) => setRenaming(event.target.value)}
                onKeyDown={(event) => {
                  if (event.key !== 'Escape') return;
                  setRenaming(null);
                  view.current?.focus();
                }}
              />
            </label>
            <button type="submit" className="button">
              Rename
            </button>
          </form>
        )}
        {chosen && (
          <button type="button" className="button" onClick={() => acts.current.define()}>
            Definition
          </button>
        )}
        {mayEdit && (
          <>
            {chosen && isRenamable(chosen) && renaming === null && (
              <button type="button" className="button" onClick={() => acts.current.rename()}>
                Rename
              </button>
            )}
            <button
              type="button"
              className="button"
              aria-expanded={comparing}
              onClick={() => setComparing(!comparing)}
            >
              Describe again …
            </button>
            <button type="button" className="button" onClick={format}>
              Format
            </button>
            <button
              type="button"
              className="button button-strong"
              disabled={!changed || state !== 'good' || busy}
              onClick={() => void store()}
            >
              Store
            </button>
          </>
        )}
      </div>
      {comparing && reader && (
        <DescribeAgain device={device} reader={reader} onClose={() => setComparing(false)} />
      )}
      <ProblemAlert problems={refused} className="mx-6 mb-1" onClose={() => setRefused([])} />
      <div className="grid min-h-0 flex-1 grid-cols-1 border-t border-rule lg:grid-cols-[minmax(0,1fr)_360px]">
        <div className="flex min-h-0 flex-col">
          <div ref={place} className="min-h-0 flex-1 overflow-hidden" />
          {problems.length > 0 && (
            <ul aria-label="What is wrong" className="max-h-32 overflow-auto border-t border-rule px-3 py-1">
              {problems.map((problem) => (
                <li key={`${problem.place} ${problem.message}`}>
                  <button
                    type="button"
                    className="link min-h-6 text-left"
                    onClick={() => {
                      const editor = view.current;
                      if (editor) go(diagnosticsOf(editor.state, [problem])[0]?.from ?? 0);
                    }}
                  >
                    <span className="m">{/:(\d+):/.exec(problem.place)?.[1] ?? ''}</span>{' '}
                    <span className="text-err">{problem.message}</span>
                  </button>
                </li>
              ))}
            </ul>
          )}
        </div>
        {reader && (
          <div className="min-h-0 max-lg:max-h-64">
            <MeaningPane
              reader={reader}
              meaning={meaning}
              name={chosen?.name}
              uses={uses}
              version={version}
              onGo={go}
            />
          </div>
        )}
      </div>
    </div>
  );
}
