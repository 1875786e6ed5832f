'use client';

import { setDiagnostics } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import type { ScriptProblem } from '@/core/bench/script/steps';
import { useDerived } from '../../workspace/context';
import { trialDiagnostics, trialExtensions } from './trial-editor';

/** The steps of a trial as text that is edited; it goes on from `text`, and tells what it becomes. */
export function TrialText({
  label,
  text,
  problems,
  onChange,
}: {
  label: string;
  text: string;
  problems: readonly ScriptProblem[];
  onChange: (text: string) => void;
}) {
  const { derived } = useDerived();
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const now = useRef({ derived, onChange, text });
  now.current = { derived, onChange, text };

  useEffect(() => {
    if (!place.current) return;
    const editor = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: now.current.text,
        extensions: trialExtensions({
          label,
          derived: () => now.current.derived,
          changed: (next) => now.current.onChange(next),
        }),
      }),
    });
    view.current = editor;
    return () => {
      editor.destroy();
      view.current = null;
    };
  }, [label]);

  useEffect(() => {
    const editor = view.current;
    if (editor) editor.dispatch(setDiagnostics(editor.state, trialDiagnostics(editor.state, problems)));
  }, [problems]);

  return <div ref={place} className="h-72 border border-rule [&>.cm-editor]:h-full" />;
}
