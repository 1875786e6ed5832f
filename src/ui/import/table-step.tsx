'use client';

import { useRef, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { type TableDraft, type TableState, withCell, withCells } from '@/core/import/compose/draft';
import { columnsOf, type Grid } from '@/core/import/tables/grid';
import { guessMapping } from '@/core/import/tables/guess';
import { signatureOf, type TableKind } from '@/core/import/tables/mapping';
import type { TableProblem } from '@/core/import/tables/records';
import { api } from '../client/api';
import { readTableText } from '../client/import-worker';
import { ProblemAlert } from '../parts/problem-alert';
import { useReading } from '../parts/reading';
import { ScrollRegion } from '../parts/scroll-region';
import type { CellPlace } from './grid-cell';
import { ProblemList } from './problem-list';
import { type FileTables, readTableFile } from './read-table-file';
import { TableBar } from './table-bar';
import { TableEmpty } from './table-empty';
import { TableGrid } from './table-grid';
import { TableSource } from './table-source';

interface Props {
  kind: TableKind;
  draft: TableDraft | null;
  state: TableState;
  onDraft: (draft: TableDraft | null) => void;
}

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

  const complaints = notice ?? <ProblemAlert problems={problems} most={6} className="mx-6 my-2" />;

  if (!draft)
    return (
      <div className="h-full overflow-auto">
        {complaints}
        <TableEmpty kind={kind} onFile={(file) => void openFile(file)} onPaste={paste} />
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

  return (
    <div className="flex h-full flex-col">
      {complaints}
      <TableBar
        kind={kind}
        draft={draft}
        fates={state.fates}
        sheets={sheets}
        remembered={remembered}
        onSheet={start}
        onMapping={(next) => change({ mapping: next })}
        onLeave={() => onDraft(null)}
      />
      <TableSource draft={draft} onChange={(source) => change({ source })} />
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
