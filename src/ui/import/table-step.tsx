'use client';

import { useRef, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { type TableDraft, type TableState, withCell, withCells } from '@/core/import/compose/draft';
import type { ReadFileAnswer, StartedTable } from '@/core/import/compose/import-task';
import { addColumn, emptyTable } from '@/core/import/tables/edit-rows';
import { columnsOf, type Grid, headingsOf } from '@/core/import/tables/grid';
import { guessMapping } from '@/core/import/tables/guess';
import { signatureOf, type TableKind } from '@/core/import/tables/mapping';
import type { TextLayout } from '@/core/import/tables/read-text';
import type { TableProblem } from '@/core/import/tables/records';
import { api } from '../client/api';
import { readAnyFile, readTableText } from '../client/import-worker';
import { ProblemAlert } from '../parts/problem-alert';
import { useReading } from '../parts/reading';
import { ScrollRegion } from '../parts/scroll-region';
import { DocumentTables } from './document-tables';
import type { CellPlace } from './grid-cell';
import { ProblemList } from './problem-list';
import { RowActions } from './row-actions';
import { TableBar, type TableOrigin } from './table-bar';
import { TableEmpty } from './table-empty';
import { TableGrid } from './table-grid';
import { TableSource } from './table-source';
import { TextBorders } from './text-borders';

interface Props {
  kind: TableKind;
  draft: TableDraft | null;
  state: TableState;
  /** The pinout, where functions may stand in it too. */
  pinout?: TableDraft | null;
  onDraft: (draft: TableDraft | null) => void;
  /** A document with pages that a table was taken from, by its hash: it is stored with the part. */
  onDocument: (sha256: string, file: File) => void;
  /** A file that is not a table after all: a whole part, or registers. */
  onOther: (content: Exclude<ReadFileAnswer, { kind: 'tables' | 'pdf' }>, file: File) => void;
}

type Tables = Extract<ReadFileAnswer, { kind: 'tables' }>;

/** Brings one of the two tables in: what its columns are, what is wrong or asked, and what became of each row. */
export function TableStep({ kind, draft, state, pinout, onDraft, onDocument, onOther }: Props) {
  const [document, setDocument] = useState<File | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);
  const { watch, notice } = useReading();
  const [origin, setOrigin] = useState<TableOrigin | null>(null);
  const [remembered, setRemembered] = useState(false);
  const [active, setActive] = useState<CellPlace | null>(null);
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set());
  const history = useRef<Grid[]>([]);
  const latest = useRef(draft);
  latest.current = draft;

  /** Takes a table as guessed, unless one with these headings was brought in before: then its columns are as they were then. */
  function start({ grid, mapping }: Pick<StartedTable, 'grid' | 'mapping'>, file?: string) {
    setProblems([]);
    setRemembered(false);
    setActive(null);
    setSelected(new Set());
    history.current = [];
    onDraft({ grid, mapping, source: { document: grid.name, ...(file ? { file } : {}) } });
    if (mapping.headerRow < 0 || grid.known) return;
    void api.mapping(signatureOf(kind, headingsOf(grid, mapping))).then((answer) => {
      const known = answer.ok ? answer.value.mapping : null;
      // The user may have put another table in its place meanwhile.
      if (!known || latest.current?.grid !== grid || known.roles.length !== mapping.roles.length) return;
      setRemembered(true);
      onDraft({
        ...latest.current,
        mapping: { ...mapping, roles: known.roles, ...(known.padName ? { padName: known.padName } : {}) },
      });
    });
  }

  function take({ what, tables, chosen, text, layout }: Tables) {
    setOrigin({
      what,
      tables,
      chosen,
      ...(text === undefined ? {} : { text }),
      ...(layout ? { layout } : {}),
    });
    const table = tables[chosen];
    if (table) start(table);
  }

  async function openFile(file: File | undefined) {
    if (!file) return;
    const read = await watch(file.name, readAnyFile(file.name, await file.arrayBuffer(), kind));
    if (!read.ok) setProblems(read.problems);
    else if (read.value.kind === 'tables') take(read.value);
    else {
      setProblems([]);
      if (read.value.kind === 'pdf') setDocument(file);
      else onOther(read.value, file);
    }
  }

  async function readAgain(text: string, layout?: TextLayout, name = 'pasted table') {
    const read = await watch(name, readTableText(name, text, kind, layout));
    if (!read.ok) setProblems(read.problems);
    else if (read.value.kind === 'tables') take(read.value);
  }

  const complaints = notice ?? <ProblemAlert problems={problems} most={6} className="mx-6 my-2" />;

  if (document && !draft)
    return (
      <div className="flex h-full flex-col">
        <DocumentTables
          kind={kind}
          file={document}
          onTake={({ sha256, ...taken }) => {
            setOrigin(null);
            onDocument(sha256, document);
            start(taken, sha256);
          }}
          onClose={() => setDocument(null)}
        />
      </div>
    );
  if (!draft)
    return (
      <div className="h-full overflow-auto">
        {complaints}
        <TableEmpty
          kind={kind}
          onFile={(file) => void openFile(file)}
          onPaste={(text) => void readAgain(text)}
          onStart={() => {
            setOrigin(null);
            onDraft({ ...emptyTable(kind), source: { document: '' } });
          }}
          onShare={
            kind === 'functions' && pinout
              ? () =>
                  onDraft({
                    grid: pinout.grid,
                    mapping: guessMapping(kind, { ...pinout.grid, known: undefined }, { unknown: 'ignore' }),
                    source: pinout.source,
                    shared: true,
                  })
              : undefined
          }
        />
      </div>
    );

  const { mapping } = draft;
  const grid = draft.shared && pinout ? pinout.grid : draft.grid;
  const change = (next: Partial<TableDraft>): void => onDraft({ ...draft, grid, ...next });
  const edit = (next: Grid): void => {
    if (next === grid) return;
    history.current = [...history.current.slice(-99), grid];
    change({ grid: next });
  };
  const undo = (): void => {
    const before = history.current.pop();
    if (before) change({ grid: before });
  };
  const headings = headingsOf(grid, mapping);
  const headingOf = (column: number): string => headings[column] || `column ${column + 1}`;
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
      next = withCell(
        next,
        one.line,
        column,
        one.word ? old.replace(one.word, () => suggestion) : suggestion,
      );
    }
    edit(next);
  }

  return (
    <div className="flex h-full flex-col">
      {complaints}
      <TableBar
        kind={kind}
        draft={{ ...draft, grid }}
        fates={state.fates}
        origin={draft.shared ? null : origin}
        remembered={remembered}
        onSheet={(chosen) => origin && take({ kind: 'tables', name: grid.name, ...origin, chosen })}
        onLayout={(layout) => origin?.text !== undefined && void readAgain(origin.text, layout, grid.name)}
        onMapping={(next) => change({ mapping: next })}
        onColumn={() => {
          history.current = [];
          change(addColumn(grid, mapping));
        }}
        onLeave={() => {
          setOrigin(null);
          onDraft(null);
        }}
      />
      {origin?.text !== undefined && origin.layout?.divider === 'positions' && !draft.shared && (
        <TextBorders
          text={origin.text}
          borders={origin.layout.borders ?? []}
          onBorders={(borders) =>
            void readAgain(origin.text ?? '', { divider: 'positions', borders }, grid.name)
          }
        />
      )}
      <TableSource draft={draft} onChange={(source) => change({ source })} />
      <RowActions grid={grid} selected={selected} onGrid={edit} onClear={() => setSelected(new Set())} />
      <div className="flex min-h-0 flex-1">
        <div className="min-w-0 flex-1">
          <TableGrid
            kind={kind}
            grid={grid}
            mapping={mapping}
            fates={state.fates}
            problems={located}
            active={active}
            selected={selected}
            onSelect={setSelected}
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
            onUndo={undo}
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
              onAnswer={(keys, answer) =>
                change({
                  answers: { ...draft.answers, ...Object.fromEntries(keys.map((key) => [key, answer])) },
                })
              }
              answered={Object.keys(draft.answers ?? {}).length}
              onForget={() => change({ answers: {} })}
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
