'use client';

import { type PointerEvent, useEffect, useRef, useState } from 'react';
import { LIMITS, tooLarge } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import type { OfferedTable } from '@/core/import/pdf/document-task';
import type { Box, TableArea } from '@/core/import/pdf/page';
import type { Grid } from '@/core/import/tables/grid';
import type { Mapping, TableKind } from '@/core/import/tables/mapping';
import { type OpenDocument, openDocument } from '../client/document-worker';
import { PagePicture } from '../parts/page-picture';
import { ProblemAlert } from '../parts/problem-alert';
import { ScrollRegion } from '../parts/scroll-region';
import { TableOutline } from './table-outline';

interface Props {
  kind: TableKind;
  file: File;
  onTake: (taken: { grid: Grid; mapping: Mapping; sha256: string }) => void;
  onClose: () => void;
}

const WIDTH = 760;

/** A document's pages with the tables found on them: which are taken, and where their columns and rows are. */
export function DocumentTables({ kind, file, onTake, onClose }: Props) {
  const [document, setDocument] = useState<OpenDocument | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);
  const [done, setDone] = useState(0);
  const [tables, setTables] = useState<OfferedTable[]>([]);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [page, setPage] = useState(1);
  const [drawing, setDrawing] = useState(false);
  const [drawn, setDrawn] = useState<Box | null>(null);
  const start = useRef<{ x: number; y: number } | null>(null);

  useEffect(() => {
    let opened: OpenDocument | undefined;
    let opening: ReturnType<typeof openDocument> | undefined;
    let current = true;
    if (file.size > LIMITS.documentBytes) {
      setProblems([{ place: file.name, message: `the file ${tooLarge('documentBytes')}` }]);
      return;
    }
    void file.arrayBuffer().then(async (bytes) => {
      if (!current) return;
      opening = openDocument(file.name, bytes, kind, setDone);
      const result = await opening.result;
      if (!current) return;
      if (!result.ok) {
        setProblems(result.problems);
        return;
      }
      opened = result.value;
      const { tables: found } = result.value;
      const best = found.reduce(
        (most, one, i) => (one.likeness > (found[most]?.likeness ?? 0) ? i : most),
        0,
      );
      setTables(found);
      // The table that is most like what is wanted is chosen; others of its kind may belong to it.
      if (found[best] && found[best].likeness > 0) setChosen(new Set([best]));
      setPage(found[best]?.areas[0]?.page ?? 1);
      setDocument(result.value);
    });
    return () => {
      current = false;
      opening?.cancel();
      opened?.close();
    };
  }, [file, kind]);

  async function take() {
    if (!document) return;
    const areas = tables.filter((_, i) => chosen.has(i)).flatMap((table) => table.areas);
    const taken = await document.take(areas);
    if (taken.ok) onTake({ ...taken.value, sha256: document.sha256 });
    else setProblems(taken.problems);
  }

  async function outline(box: Box) {
    const area = await document?.outline(page, box);
    if (!area) {
      setProblems([{ place: `page ${page}`, message: 'there is no text in this rectangle' }]);
      return;
    }
    setProblems([]);
    setTables([
      ...tables,
      {
        title: area.title ?? `page ${page}`,
        areas: [area],
        rows: area.rows.length - 1,
        columns: area.columns.length - 1,
        likeness: 0,
      },
    ]);
    setChosen(new Set([...chosen, tables.length]));
  }

  const toggle = (index: number): void => {
    const next = new Set(chosen);
    if (!next.delete(index)) next.add(index);
    setChosen(next);
  };
  const change = (table: number, at: number, area: TableArea): void =>
    setTables(
      tables.map((one, i) =>
        i === table
          ? {
              ...one,
              columns: area.columns.length - 1,
              areas: one.areas.map((other, j) => {
                if (j === at) return area;
                // The columns of one table are the same on all its pages.
                return other.columns.length === one.areas[at]?.columns.length
                  ? {
                      ...other,
                      columns: area.columns,
                      box: { ...other.box, left: area.box.left, right: area.box.right },
                    }
                  : other;
              }),
            }
          : one,
      ),
    );

  if (!document)
    return (
      <div className="px-6 py-4">
        <ProblemAlert problems={problems} className="mb-3" />
        {problems.length === 0 && (
          <p role="status">
            Looking for tables in {file.name} … <span className="m">{Math.round(done * 100)} %</span>
          </p>
        )}
        <p className="mt-2">
          <button type="button" className="button" onClick={onClose}>
            {problems.length > 0 ? 'Another file' : 'Stop'}
          </button>
        </p>
      </div>
    );

  const point = (event: PointerEvent<SVGRectElement>) => {
    const size = document.pages[page - 1];
    const rect = event.currentTarget.getBoundingClientRect();
    return {
      x: ((event.clientX - rect.left) * (size?.width ?? 1)) / rect.width,
      y: ((event.clientY - rect.top) * (size?.height ?? 1)) / rect.height,
    };
  };
  const count = tables.filter((_, i) => chosen.has(i)).reduce((sum, one) => sum + one.areas.length, 0);
  return (
    <div className="flex min-h-0 flex-1">
      <ScrollRegion
        label="Tables found"
        className="flex w-[320px] shrink-0 flex-col border-r border-rule bg-sheet px-4 py-2 max-lg:w-[240px]"
      >
        <h2 className="font-semibold">
          {tables.length} {tables.length === 1 ? 'table' : 'tables'} in {document.name}
        </h2>
        <p className="mb-1 text-[12px] text-soft">
          {document.pages.length} pages. Choose those that are the{' '}
          {kind === 'pinout' ? 'pinout' : 'functions'}; several are put below each other.
        </p>
        <ProblemAlert problems={problems} className="mb-2" />
        {document.unread.length > 0 && (
          <p role="note" className="mb-2 text-[12px]">
            Tables were not looked for everywhere:{' '}
            {document.unread
              .slice(0, 5)
              .map(({ page, why }) => `page ${page} ${why}`)
              .join('; ')}
            {document.unread.length > 5 && `; and ${document.unread.length - 5} more pages`}.
          </p>
        )}
        <ul>
          {tables.map((table, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: tables have no other name of their own
            <li key={index} className="flex items-baseline gap-2 border-b border-rule py-1">
              <input
                type="checkbox"
                aria-label={`Take ${table.title}`}
                checked={chosen.has(index)}
                onChange={() => toggle(index)}
              />
              <button
                type="button"
                className="min-h-6 flex-1 text-left hover:underline"
                onClick={() => setPage(table.areas[0]?.page ?? 1)}
              >
                {table.title}
                <span className="block text-[12px] text-soft">
                  {table.areas.length > 1
                    ? `pages ${table.areas[0]?.page}–${table.areas.at(-1)?.page}`
                    : `page ${table.areas[0]?.page}`}
                  , {table.rows} rows × {table.columns} columns
                  {table.likeness > 4 && (
                    <b className="font-medium text-ink">
                      {' '}
                      · looks like {kind === 'pinout' ? 'pins' : 'functions'}
                    </b>
                  )}
                </span>
              </button>
            </li>
          ))}
          {tables.length === 0 && (
            <li className="py-2">
              No table was found. Draw one: “Draw a table”, then a rectangle on its page.
            </li>
          )}
        </ul>
        <p className="mt-3 flex flex-wrap gap-2">
          <button
            type="button"
            className="button button-strong"
            disabled={count === 0}
            onClick={() => void take()}
          >
            Take {count > 1 ? `what is chosen on ${count} pages` : 'the chosen table'}
          </button>
          <button type="button" className="button" onClick={onClose}>
            Another file
          </button>
        </p>
        <p className="mt-2 text-[12px] text-soft">
          On the page: a click chooses a table; borders are dragged, or moved with the arrow keys; Delete
          takes one away; a double click sets one between columns, with Alt one between rows.
        </p>
      </ScrollRegion>
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="flex flex-wrap items-center gap-2 border-b border-rule px-4 py-1">
          <button
            type="button"
            className="button !h-6 !py-0"
            disabled={page === 1}
            onClick={() => setPage(page - 1)}
          >
            ‹ page
          </button>
          <label className="flex items-center gap-1">
            page
            <input
              className="m w-14 !h-6 !py-0"
              inputMode="numeric"
              value={page}
              onChange={(event) => {
                const next = Number.parseInt(event.target.value, 10);
                if (next >= 1 && next <= document.pages.length) setPage(next);
              }}
            />
            <span className="text-soft">of {document.pages.length}</span>
          </label>
          <button
            type="button"
            className="button !h-6 !py-0"
            disabled={page === document.pages.length}
            onClick={() => setPage(page + 1)}
          >
            page ›
          </button>
          <button
            type="button"
            aria-pressed={drawing}
            className={`button !h-6 !py-0 ${drawing ? 'bg-pickbg' : ''}`}
            onClick={() => setDrawing(!drawing)}
          >
            Draw a table
          </button>
        </div>
        <ScrollRegion label="Page" className="min-h-0 flex-1 bg-sheet p-3">
          <PagePicture document={document} page={page} width={WIDTH}>
            {tables.flatMap((table, index) =>
              table.areas.flatMap((area, at) =>
                area.page === page
                  ? [
                      <TableOutline
                        // biome-ignore lint/suspicious/noArrayIndexKey: see above
                        key={`${index} ${at}`}
                        area={area}
                        title={table.title}
                        chosen={chosen.has(index)}
                        onChoose={() => toggle(index)}
                        onChange={(next) => change(index, at, next)}
                      />,
                    ]
                  : [],
              ),
            )}
            {drawing && (
              // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: only the pointer draws; found tables have keys
              <rect
                x="0"
                y="0"
                width="100%"
                height="100%"
                role="presentation"
                className="cursor-crosshair fill-transparent"
                onPointerDown={(event) => {
                  event.currentTarget.setPointerCapture(event.pointerId);
                  start.current = point(event);
                }}
                onPointerMove={(event) => {
                  const from = start.current;
                  if (!from) return;
                  const to = point(event);
                  setDrawn({
                    left: Math.min(from.x, to.x),
                    right: Math.max(from.x, to.x),
                    top: Math.min(from.y, to.y),
                    bottom: Math.max(from.y, to.y),
                  });
                }}
                onPointerUp={() => {
                  start.current = null;
                  if (drawn && drawn.right - drawn.left > 10 && drawn.bottom - drawn.top > 10)
                    void outline(drawn);
                  setDrawn(null);
                  setDrawing(false);
                }}
              />
            )}
            {drawn && (
              <rect
                x={drawn.left}
                y={drawn.top}
                width={drawn.right - drawn.left}
                height={drawn.bottom - drawn.top}
                className="pointer-events-none fill-pick/10 stroke-pick"
              />
            )}
          </PagePicture>
        </ScrollRegion>
      </div>
    </div>
  );
}
