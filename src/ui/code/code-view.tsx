'use client';

import { Check, Copy, Download, History } from 'lucide-react';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { prefixOf } from '@/core/derive/resolve/resolve';
import { type NotCovered, notCovered } from '@/core/derive/simulate/not-covered';
import { netOfLine } from '@/core/output/code/net-of-line';
import { TARGETS } from '@/core/output/targets';
import { lensRegisters } from '@/core/read-back/lens';
import { provenWords } from '../parts/proven-words';
import { bitsOfOperation, linesOf, operationAt } from '../registers/bits';
import { useActions, useDerived, useSession, useView } from '../workspace/context';
import { CodeText } from './code-text';
import { Compilers } from './compilers';
import { downloadFiles } from './download';
import { ExportHistory, when } from './export-history';
import { languageOf } from './languages';
import { changedOnly, shownLines } from './lines';
import { useCode } from './use-code';

/** The generated code, live: files, what changed since the last export, the proof, copy and download. */
export function CodeView() {
  const { derived } = useDerived();
  const { shownOperation } = useView();
  const state = useSession();
  const { select, showOperation } = useActions();
  const { target, targetId, setTargetId, files, lack, last, record } = useCode();
  const [history, setHistory] = useState(false);
  const [chosen, setChosen] = useState(1);
  const [onlyChanges, setOnlyChanges] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const holder = files.findIndex((one) => one.initialises);
  const begins = files[holder]?.operations;
  const marked = shownOperation === null ? undefined : linesOf(begins ?? [], shownOperation);
  useEffect(() => {
    if (shownOperation === null || holder < 0) return;
    setChosen(holder);
    setOnlyChanges(false);
  }, [shownOperation, holder]);
  const file = files[Math.min(chosen, files.length - 1)];
  const before = last?.files.find((one) => suffix(one.path) === suffix(file?.path ?? ''))?.text;
  const lines = useMemo(() => shownLines(file?.text ?? '', before), [file, before]);
  const changes = lines.filter((line) => line.kind !== 'same').length;
  const { proof, counts, plan, accessors } = derived;
  const allProven = proof.proven === proof.pins && accessors.list.every((one) => one.fault === undefined);
  const settled = state.pending.length === 0;
  const { lowered } = derived;
  const rows = useMemo(() => lensRegisters(derived), [derived]);
  const uncovered = useMemo(
    () => notCovered(derived.device, derived.planned, derived.lowered, derived.accessors.absent),
    [derived],
  );
  const show = useCallback(
    (index: number | undefined) => {
      const operation = index === undefined ? undefined : lowered.operations[index];
      if (index === undefined || !operation) return;
      showOperation(index);
      const bits = bitsOfOperation(rows, operation);
      if (bits !== undefined) select({ kind: 'bits', id: bits });
    },
    [lowered, rows, select, showOperation],
  );
  const onLine = useCallback(
    (line: number) => {
      const net = file && netOfLine(derived, file.text, line);
      if (net !== undefined) select({ kind: 'net', id: net });
      else if (file === files[holder]) show(operationAt(begins ?? [], line));
    },
    [derived, file, files, holder, begins, select, show],
  );
  const onWalk = useCallback(
    (step: 1 | -1) =>
      show(
        shownOperation === null
          ? 0
          : Math.max(0, Math.min(lowered.operations.length - 1, shownOperation + step)),
      ),
    [lowered, shownOperation, show],
  );

  async function copy() {
    if (!file) return;
    try {
      await navigator.clipboard.writeText(file.text);
      setSaid(`${file.path} copied`);
    } catch {
      setSaid('The browser does not let this page copy; select the text instead.');
    }
  }

  async function download() {
    downloadFiles(prefixOf(plan), files);
    const problem = await record(state.seq);
    setSaid(
      problem === null
        ? 'Downloaded; changes are shown against this from now on'
        : `Downloaded, but: ${problem}`,
    );
  }

  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <label className="flex items-center gap-1.5 text-soft">
          Target
          <select
            className="py-0 text-ink"
            value={targetId}
            onChange={(event) => setTargetId(event.target.value)}
          >
            {TARGETS.map((one) => (
              <option key={one.id} value={one.id}>
                {one.title}
              </option>
            ))}
          </select>
        </label>
        <div role="tablist" aria-label="Files" className="flex gap-1">
          {files.map((one, index) => (
            <button
              key={one.path}
              type="button"
              role="tab"
              aria-selected={one === file}
              className={`m border-b-2 px-1.5 py-0.5 ${one === file ? 'border-pick font-medium' : 'border-transparent text-soft'}`}
              onClick={() => setChosen(index)}
            >
              {one.path}
            </button>
          ))}
        </div>
        <label className={`flex items-center gap-1.5 ${last ? '' : 'text-soft'}`}>
          <input
            type="checkbox"
            disabled={!last}
            checked={onlyChanges && last !== null}
            onChange={(event) => setOnlyChanges(event.target.checked)}
          />
          only what changed
        </label>
        <span className="ml-auto flex gap-1.5">
          <button
            type="button"
            className="button inline-flex items-center gap-1.5"
            aria-pressed={history}
            onClick={() => setHistory(!history)}
          >
            <History size={13} aria-hidden /> Exports
          </button>
          <button
            type="button"
            className="button inline-flex items-center gap-1.5"
            onClick={() => void copy()}
          >
            <Copy size={13} aria-hidden /> Copy
          </button>
          <button
            type="button"
            id="download-code"
            className="button button-strong inline-flex items-center gap-1.5"
            disabled={!settled || files.length === 0}
            title={settled ? 'All files as a zip archive' : 'Waits until the last change is saved'}
            onClick={() => void download()}
          >
            <Download size={13} aria-hidden /> Download zip
          </button>
        </span>
      </div>
      <div className="flex flex-wrap gap-x-4 border-b border-rule px-3.5 py-1 text-[12px]" aria-live="polite">
        <span className={allProven ? '' : 'text-err'}>
          {allProven && <Check size={12} className="mr-1 inline" aria-hidden />}
          {provenWords(derived)}
        </span>
        {counts.error > 0 && (
          <span className="text-err">
            ▲ {counts.error} {counts.error === 1 ? 'error' : 'errors'}: this code is marked as not fit to ship
          </span>
        )}
        <span className="text-soft">content {derived.fingerprint}</span>
        <span className="text-soft">
          {last
            ? changes === 0
              ? `as exported ${when(last.at)}`
              : `${changes} lines differ from the export of ${when(last.at)}`
            : 'never exported'}
        </span>
        {said && <span className="ml-auto">{said}</span>}
      </div>
      {!history && proof.pins > 0 && <NotCoveredList notCovered={uncovered} />}
      {target && !target.document && lack === undefined && !history && (
        <Compilers key={target.id} target={target.id} settled={settled} />
      )}
      {history && <ExportHistory newest={last?.at} onClose={() => setHistory(false)} />}
      <div className={`min-h-0 flex-1 bg-sheet ${history ? 'hidden' : ''}`}>
        {lack !== undefined && (
          <p className="p-4">
            There is no {target?.title} for this plan: {lack}.
          </p>
        )}
        {file && target && (
          <CodeText
            label={file.path}
            language={languageOf(target, file.path)}
            text={file.text}
            lines={onlyChanges && last ? changedOnly(lines, 3) : lines}
            {...(marked !== undefined && file === files[holder] ? { marked } : {})}
            onLine={onLine}
            {...(file === files[holder] && begins ? { onWalk } : {})}
          />
        )}
      </div>
    </div>
  );
}

/** What "proven" does not say, folded away but counted. */
function NotCoveredList({ notCovered: list }: { notCovered: readonly NotCovered[] }) {
  return (
    <details className="border-b border-rule px-3.5 py-1 text-[12px]">
      <summary className="cursor-pointer text-soft">
        not covered by the proof: the description itself
        {list.length > 0 && `, and ${list.length} ${list.length === 1 ? 'thing' : 'things'} more`}
      </summary>
      <ul className="mt-1 list-disc pl-4">
        <li>
          that the description of the part is true: the proof is about the code and the description, not about
          the chip
        </li>
        {list.map(({ kind, text }) => (
          <li key={`${kind} ${text}`}>{text}</li>
        ))}
      </ul>
    </details>
  );
}

/** Files are matched by kind, so that a renamed plan still shows what changed. */
const suffix = (path: string): string => path.slice(path.lastIndexOf('.'));
