'use client';

import { useEffect, useMemo, useState } from 'react';
import type { ExportHead, ExportRecord } from '@/core/output/exports';
import { targetById } from '@/core/output/targets';
import { api } from '../client/api';
import { useActions } from '../workspace/context';
import { CodeText } from './code-text';
import { downloadFiles } from './download';
import { languageOf } from './languages';
import { changedOnly, shownLines } from './lines';

/** The options of the code in a few words. */
function optionWords(options: ExportHead['options']): string {
  const words = [
    options.style === 'from-reset' ? 'all bits' : options.style && 'planned bits',
    options.functions === 'circuits' && 'a function a circuit',
    options.deinit && 'deinit',
    options.hooks && 'hooks',
    options.comments && (options.comments === 'none' ? 'no comments' : 'comments of stages'),
    options.layout && 'one header',
    options.registers && `registers ${options.registers}`,
    options.peripheralClocks && 'clocks of peripherals',
  ];
  return words.filter(Boolean).join(' · ');
}

interface Props {
  /** Changes with every export that is recorded. */
  newest: string | undefined;
  onClose(): void;
}

/** What was taken away of the code so far: each as it was, and the difference between any two of one target. */
export function ExportHistory({ newest, onClose }: Props) {
  const { planId } = useActions();
  const [list, setList] = useState<ExportHead[] | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [shown, setShown] = useState<ExportRecord | null>(null);
  const [against, setAgainst] = useState<ExportRecord | null>(null);
  const [path, setPath] = useState('');
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again when an export has been recorded
  useEffect(() => {
    let current = true;
    void api.exportHistory(planId).then((answer) => {
      if (!current) return;
      if (answer.ok) setList(answer.value.exports);
      else setProblem(answer.problems[0]?.message ?? 'the history cannot be read');
    });
    return () => {
      current = false;
    };
  }, [planId, newest]);

  async function open(id: number, take: (one: ExportRecord | null) => void) {
    const answer = await api.oneExport(planId, id);
    if (answer.ok) take(answer.value);
    else setProblem(answer.problems[0]?.message ?? 'that export cannot be read');
  }

  const file = shown?.files.find((one) => one.path === path) ?? shown?.files.at(-1);
  const before = against?.files.find((one) => ending(one.path) === ending(file?.path ?? ''))?.text;
  const lines = useMemo(() => {
    const all = shownLines(file?.text ?? '', against ? (before ?? '') : undefined);
    return against ? changedOnly(all, 3) : all;
  }, [file, against, before]);
  const target = shown && targetById(shown.target);
  return (
    <section aria-label="Exports" className="flex min-h-0 flex-1 flex-col">
      <div className="flex items-baseline gap-3 border-b border-rule px-3.5 py-1">
        <h2 className="font-semibold">Exports</h2>
        <span className="text-soft" role="status">
          {problem ??
            (list === null
              ? 'reading …'
              : list.length === 0
                ? 'nothing has been exported yet'
                : `${list.length} so far`)}
        </span>
        <button type="button" className="link ml-auto" onClick={onClose}>
          back to the code as it is now
        </button>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(250px,300px)_1fr]">
        <ol aria-label="Exports, newest first" className="pane-area border-r border-rule py-1">
          {list?.map((one) => (
            <li key={one.id} className={`px-3.5 py-1 ${shown?.id === one.id ? 'bg-pickbg' : ''}`}>
              <button
                type="button"
                className="block w-full text-left"
                aria-current={shown?.id === one.id}
                onClick={() => void open(one.id, setShown)}
              >
                <b className="font-medium">{targetById(one.target)?.title ?? one.target}</b>
                <span className="text-soft"> · rev {one.revision || '–'}</span>
                <span className="block text-[12px] text-soft">
                  {when(one.at)} · change {one.seq} · <span className="m text-[11px]">{one.fingerprint}</span>
                </span>
                <span className="block text-[12px] text-soft">{optionWords(one.options)}</span>
              </button>
              {shown && shown.id !== one.id && shown.target === one.target && (
                <button
                  type="button"
                  className="link block py-1"
                  aria-pressed={against?.id === one.id}
                  onClick={() => (against?.id === one.id ? setAgainst(null) : void open(one.id, setAgainst))}
                >
                  {against?.id === one.id ? 'stop comparing' : 'compare with this'}
                </button>
              )}
            </li>
          ))}
        </ol>
        {shown && file && target ? (
          <div className="flex min-h-0 min-w-0 flex-col">
            <div className="flex flex-wrap items-baseline gap-3 border-b border-rule px-3.5 py-1">
              {shown.files.map((one) => (
                <button
                  key={one.path}
                  type="button"
                  aria-pressed={one === file}
                  className={`m ${one === file ? 'font-medium' : 'text-soft hover:underline'}`}
                  onClick={() => setPath(one.path)}
                >
                  {one.path}
                </button>
              ))}
              <span className="text-soft">
                {against
                  ? lines.some((line) => line && line.kind !== 'same')
                    ? `against ${when(against.at)}`
                    : `the same as ${when(against.at)}`
                  : 'as it was'}
              </span>
              <button
                type="button"
                className="button ml-auto"
                onClick={() => downloadFiles(`export_${shown.id}`, shown.files)}
              >
                Download
              </button>
            </div>
            <div className="min-h-0 flex-1 bg-sheet">
              <CodeText
                label={file.path}
                language={languageOf(target, file.path)}
                text={file.text}
                lines={lines}
              />
            </div>
          </div>
        ) : (
          <p className="p-4 text-soft">Choose an export to see it as it was.</p>
        )}
      </div>
    </section>
  );
}

const ending = (path: string): string => path.slice(path.lastIndexOf('.'));

export const when = (iso: string): string =>
  new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  });
