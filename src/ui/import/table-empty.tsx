'use client';

import { type DragEvent, useEffect, useRef, useState } from 'react';
import type { TableKind } from '@/core/import/tables/mapping';

const WORDS: Record<TableKind, { title: string; what: string; example: string }> = {
  pinout: {
    title: 'pinout table',
    what: 'One row a pad: its pin in each package, and what the data sheet says beside it (kind, supply, notes). A row a pin works too.',
    example: 'Pad\tType\tQ64\tQ100\tSupply\nA0/WAKE1\tI/O\t3\t5\tVDD\nVSS\tG\t2 24\t6 31\t',
  },
  functions: {
    title: 'function table',
    what: 'Either wide, one row a pad and one column a mux code with signals in the cells, or long, one row a signal with pad and code.',
    example: 'Pad\tF0\tF1\tF2\tAnalog\nA0\t-\tUART1.TX\tPACE2.Q1\tADC1.V0',
  },
};

interface Props {
  kind: TableKind;
  onFile: (file: File | undefined) => void;
  onPaste: (text: string) => void;
  /** To be filled by hand. */
  onStart: () => void;
  /** Functions may stand in the pinout table, which is there already. */
  onShare?: () => void;
}

/** No table yet: how to bring one in. */
export function TableEmpty({ kind, onFile, onPaste, onStart, onShare }: Props) {
  const chooser = useRef<HTMLInputElement>(null);
  const [text, setText] = useState('');
  const [dragging, setDragging] = useState(false);
  const { title, what, example } = WORDS[kind];

  // A paste anywhere on the page is meant for the table, wherever the focus is.
  useEffect(() => {
    function onWindowPaste(event: globalThis.ClipboardEvent) {
      if ((event.target as HTMLElement | null)?.closest('input, textarea')) return;
      const file = event.clipboardData?.files[0];
      if (file) onFile(file);
      else {
        const pastedText = event.clipboardData?.getData('text/plain') ?? '';
        if (pastedText.trim() !== '') onPaste(pastedText);
      }
    }
    window.addEventListener('paste', onWindowPaste);
    return () => window.removeEventListener('paste', onWindowPaste);
  }, [onFile, onPaste]);

  function drop(event: DragEvent) {
    event.preventDefault();
    setDragging(false);
    onFile(event.dataTransfer.files[0]);
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a shortcut; the button does the same
    <div
      className={`m-6 grid max-w-4xl gap-4 ${dragging ? 'outline-2 outline-dashed outline-pick' : ''}`}
      onDragOver={(event) => {
        event.preventDefault();
        setDragging(true);
      }}
      onDragLeave={() => setDragging(false)}
      onDrop={drop}
    >
      <div>
        <h2 className="text-[16px] font-semibold">Bring in the {title}</h2>
        <p className="mt-1 max-w-2xl text-soft">{what}</p>
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <button type="button" className="button button-strong" onClick={() => chooser.current?.click()}>
          Choose a file
        </button>
        <span className="text-soft">
          or drop one here: PDF, XLSX, ODS, CSV or text
          {kind === 'pinout' && ', a boundary-scan description (BSDL) or IBIS model for the pins'}, or a part
          that Mavrek exported
        </span>
        <button type="button" className="button" onClick={onStart}>
          Start with an empty table
        </button>
        {onShare && (
          <button type="button" className="button" onClick={onShare}>
            They stand in the pinout table
          </button>
        )}
        <input
          ref={chooser}
          type="file"
          className="hidden"
          aria-label={`${title} file`}
          onChange={(event) => {
            onFile(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </div>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onPaste(text);
        }}
      >
        <label htmlFor={`paste-${kind}`} className="text-soft">
          or paste rows from a spreadsheet or PDF
        </label>
        <textarea
          id={`paste-${kind}`}
          className="m mt-1 block h-40 w-full"
          placeholder={example}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <button type="submit" className="button mt-2" disabled={text.trim() === ''}>
          Read what was pasted
        </button>
      </form>
    </div>
  );
}
