'use client';

import { type DragEvent, useEffect, useRef, useState } from 'react';
import type { Problem } from '@/core/result';
import { type TableDraft, type TableState, withCell, withCells, withHeadings } from '@/core/tables/draft';
import { columnsOf, type Grid } from '@/core/tables/grid';
import { guessMapping } from '@/core/tables/guess';
import { signatureOf, type TableKind } from '@/core/tables/mapping';
import { countFates, type TableProblem } from '@/core/tables/records';
import { api } from '../client/api';
import { readTableText } from '../client/import-worker';
import { useReading } from '../parts/reading';
import { ScrollRegion } from '../parts/scroll-region';
import { ProblemList } from './problem-list';
import { type FileTables, readTableFile } from './read-table-file';
import { type CellPlace, TableGrid } from './table-grid';

interface Props {
  kind: TableKind;
  draft: TableDraft | null;
  state: TableState;
  onDraft: (draft: TableDraft | null) => void;
}

const WORDS: Record<TableKind, { title: string; what: string; example: string }> = {
  pinout: {
    title: 'pinout table',
    what: 'One row a pad: its terminal in each package, and what the data sheet says beside it (kind, supply, notes). A row a terminal works too.',
    example: 'Pad\tType\tQ64\tQ100\tSupply\nA0/WAKE1\tI/O\t3\t5\tVDD\nVSS\tG\t2 24\t6 31\t',
  },
  functions: {
    title: 'function table',
    what: 'Either wide, one row a pad and one column a mux code with signals in the cells, or long, one row a signal with pad and code.',
    example: 'Pad\tF0\tF1\tF2\tAnalog\nA0\t-\tUART1.TX\tTIM2.CH1\tADC1.IN0',
  },
};

/** Brings one of the two tables in: what its columns are, what is wrong with it, and what became of each row. */
export function TableStep({ kind, draft, state, onDraft }: Props) {
  const [problems, setProblems] = useState<Problem[]>([]);
  const { watch, notice } = useReading();
  const [sheets, setSheets] = useState<FileTables | null>(null);
  const [remembered, setRemembered] = useState(false);
  const [active, setActive] = useState<CellPlace | null>(null);
  const history = useRef<Grid[]>([]);
  const latest = useRef(draft);
  latest.current = draft;

  /** Guesses the columns, unless a table with these headings was brought in before: then it is as it was then. */
  function start(grid: Grid) {
    const mapping = guessMapping(kind, grid, { unknown: 'ignore' });
    setProblems([]);
    setRemembered(false);
    setActive(null);
    history.current = [];
    onDraft({ grid, mapping, source: latest.current?.source ?? { document: grid.name } });
    const headings = grid.rows[mapping.headerRow]?.cells;
    if (!headings) return;
    void api.mapping(signatureOf(kind, headings)).then((answer) => {
      const known = answer.ok ? answer.value.mapping : null;
      // The user may have put another table in its place meanwhile.
      if (!known || latest.current?.grid !== grid || known.roles.length !== mapping.roles.length) return;
      setRemembered(true);
      onDraft({ ...latest.current, mapping: { ...known, headerRow: mapping.headerRow } });
    });
  }

  async function openFile(file: File | undefined) {
    if (!file) return;
    const tables = await readTableFile(file, watch);
    if (!tables.ok) {
      setProblems(tables.problems);
      return;
    }
    setSheets(tables.value.sheets.length > 1 ? tables.value : null);
    const first = tables.value.sheets[0];
    if (first) start(first.grid);
  }

  async function paste(text: string) {
    const name = 'pasted table';
    const grid = await watch(name, readTableText(name, text, false));
    if (grid.ok) start(grid.value);
    else setProblems(grid.problems);
  }

  const complaints =
    notice ??
    (problems.length > 0 && (
      <div role="alert" className="mx-6 my-2 border border-ink px-3 py-1.5 text-err">
        {problems.slice(0, 6).map((one) => (
          <p key={`${one.place} ${one.message}`}>
            <span className="m">{one.place}</span> {one.message}
          </p>
        ))}
      </div>
    ));

  if (!draft)
    return (
      <div className="h-full overflow-auto">
        {complaints}
        <Empty kind={kind} onFile={(file) => void openFile(file)} onPaste={paste} />
      </div>
    );

  const { grid, mapping } = draft;
  const change = (next: Partial<TableDraft>): void => onDraft({ ...draft, ...next });
  const edit = (next: Grid): void => {
    history.current = [...history.current.slice(-99), grid];
    change({ grid: next });
  };
  const headingOf = (column: number): string =>
    (grid.rows[mapping.headerRow]?.cells[column] ?? '').trim() || `column ${column + 1}`;
  const columnFor = (problem: TableProblem): number | undefined =>
    problem.column ??
    (problem.role === undefined ? undefined : indexOrUndefined(mapping.roles, problem.role));
  const located = state.problems.map((one) => ({ ...one, column: columnFor(one) }));

  function fix(list: readonly TableProblem[], suggestion: string) {
    let next = grid;
    for (const one of list) {
      const column = columnFor(one);
      if (one.line === undefined || column === undefined) continue;
      const old = next.rows.find((row) => row.line === one.line)?.cells[column] ?? '';
      next = withCell(next, one.line, column, one.word ? old.replace(one.word, suggestion) : suggestion);
    }
    edit(next);
  }

  const counts = countFates(state.fates);
  return (
    <div className="flex h-full flex-col">
      {complaints}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-6 py-1.5">
        <b className="font-semibold">{grid.name}</b>
        {sheets && (
          <select
            aria-label="Sheet"
            value={sheets.sheets.find((one) => one.grid.name === grid.name)?.title}
            onChange={(event) => {
              const sheet = sheets.sheets.find((one) => one.title === event.target.value);
              if (sheet) start(sheet.grid);
            }}
          >
            {sheets.sheets.map((one) => (
              <option key={one.title}>{one.title}</option>
            ))}
          </select>
        )}
        <span role="status" data-testid="accounting" className="text-soft">
          {grid.rows.length} rows
          {Object.entries(counts).length > 0 &&
            `: ${Object.entries(counts)
              .map(([fate, count]) => `${count} ${fate}`)
              .join(', ')}`}
        </span>
        {remembered && <span className="text-soft">columns as last time</span>}
        <label className="flex items-center gap-1.5 text-soft">
          headings in row
          <select
            className="m !h-6 !py-0"
            value={mapping.headerRow}
            onChange={(event) =>
              change({ mapping: withHeadings(kind, grid, mapping, Number(event.target.value)) })
            }
          >
            <option value={-1}>none</option>
            {grid.rows.slice(0, 20).map((row, index) => (
              <option key={row.line} value={index}>
                {row.line}
              </option>
            ))}
          </select>
        </label>
        <button type="button" className="link ml-auto" onClick={() => onDraft(null)}>
          another table
        </button>
      </div>
      <SourceFields draft={draft} onChange={(source) => change({ source })} />
      <div className="flex min-h-0 flex-1">
        <div className="min-w-0 flex-1">
          <TableGrid
            kind={kind}
            grid={grid}
            mapping={mapping}
            fates={state.fates}
            problems={located}
            active={active}
            onActive={setActive}
            onRole={(column, role) => {
              const roles = Array.from({ length: columnsOf(grid) }, (_, i) => mapping.roles[i] ?? 'ignore');
              roles[column] = role;
              change({ mapping: { ...mapping, roles } });
            }}
            onCell={(place, text) => {
              const old = grid.rows.find((row) => row.line === place.line)?.cells[place.column] ?? '';
              if (old !== text) edit(withCell(grid, place.line, place.column, text));
            }}
            onPaste={(place, text) => edit(withCells(grid, place, text))}
            onUndo={() => {
              const before = history.current.pop();
              if (before) change({ grid: before });
            }}
          />
        </div>
        <ScrollRegion
          label="Problems"
          className="w-[300px] shrink-0 border-l border-rule bg-sheet max-lg:w-[220px]"
        >
          {state.mapping.length > 0 ? (
            <ul className="px-3 py-2">
              {state.mapping.map((text) => (
                <li key={text} className="text-err">
                  ▲ {text}
                </li>
              ))}
              <li className="mt-1 text-soft">Say above the table what its columns are.</li>
            </ul>
          ) : (
            <ProblemList
              problems={located}
              columnTitle={headingOf}
              onShow={(one) =>
                one.line !== undefined && setActive({ line: one.line, column: columnFor(one) ?? 0 })
              }
              onFix={fix}
            />
          )}
        </ScrollRegion>
      </div>
    </div>
  );
}

const indexOrUndefined = (roles: readonly string[], role: string): number | undefined => {
  const at = roles.indexOf(role);
  return at < 0 ? undefined : at;
};

function SourceFields({
  draft,
  onChange,
}: {
  draft: TableDraft;
  onChange: (source: TableDraft['source']) => void;
}) {
  const { source } = draft;
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-6 py-1 text-soft">
      <span>read in</span>
      <input
        aria-label="Document of the table"
        className="w-56 !h-6 !py-0"
        maxLength={300}
        value={source.document}
        onChange={(event) => onChange({ ...source, document: event.target.value })}
      />
      <label className="flex items-center gap-1.5">
        revision
        <input
          className="w-20 !h-6 !py-0"
          maxLength={40}
          value={source.revision ?? ''}
          onChange={(event) => onChange({ ...source, revision: event.target.value || undefined })}
        />
      </label>
      <label className="flex items-center gap-1.5">
        page
        <input
          className="w-16 !h-6 !py-0"
          inputMode="numeric"
          value={source.page ?? ''}
          onChange={(event) => {
            const page = Number.parseInt(event.target.value, 10);
            onChange({ ...source, page: Number.isNaN(page) ? undefined : page });
          }}
        />
      </label>
      <span className="text-[12px]">kept with every datum and shown in the inspector</span>
    </div>
  );
}

interface EmptyProps {
  kind: TableKind;
  onFile: (file: File | undefined) => void;
  onPaste: (text: string) => void;
}

/** No table yet: how to bring one in. */
function Empty({ kind, onFile, onPaste }: EmptyProps) {
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
          or drop one here: CSV, TSV or XLSX
          {kind === 'pinout' && ', or a boundary-scan description (BSDL) for the pin map'}
        </span>
        <input
          ref={chooser}
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,.bsd,.bsdl"
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
