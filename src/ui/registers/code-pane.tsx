'use client';

import { useEffect, useMemo, useState } from 'react';
import { LIMITS, overLimit, tooLarge } from '@/core/base/limits';
import { levelOf, REVIEW_RULES } from '@/core/existing-code/finding';
import type { ReviewAnswer, ReviewTold } from '@/core/existing-code/review-task';
import { startReview } from '../client/review-worker';
import { useActions, useDerived } from '../workspace/context';
import { Differences } from './differences';

interface CodeFile {
  name: string;
  text: string;
}

const PASTED = 'pasted.c';

/** Existing C that sets these registers: what plan it is, and step by step what is suspicious in it. */
export function CodePane() {
  const { derived } = useDerived();
  const [pasted, setPasted] = useState('');
  const [dropped, setDropped] = useState<readonly CodeFile[]>([]);
  const [entry, setEntry] = useState('');
  const [defines, setDefines] = useState('');
  const [answer, setAnswer] = useState<ReviewAnswer | 'working' | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const files = useMemo(
    () => [...(pasted.trim() === '' ? [] : [{ name: PASTED, text: pasted }]), ...dropped],
    [pasted, dropped],
  );
  useEffect(() => {
    if (files.length === 0) {
      setAnswer(null);
      return;
    }
    setAnswer((now) => now ?? 'working');
    let stop = (): void => {};
    // While somebody types, every key would start it anew.
    const timer = setTimeout(() => {
      const { plan, device } = derived;
      const given = { description: device.description, plan, files };
      const names = defines.split(/[\s,]+/).filter((one) => /^[A-Za-z_]\w*(=.*)?$/.test(one));
      stop = startReview({ ...given, entries: entry === '' ? [] : [entry], defines: names }, setAnswer);
    }, 250);
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [files, entry, defines, derived]);

  async function addFiles(list: FileList | null) {
    const picked = [...(list ?? [])];
    const size = picked.reduce((sum, one) => sum + one.size, 0);
    if (size > LIMITS.codeCharacters) {
      setSaid(`this ${tooLarge('codeCharacters')}`);
      return;
    }
    if (dropped.length + picked.length > LIMITS.codeFiles) {
      setSaid(`this ${overLimit('codeFiles', dropped.length + picked.length)}`);
      return;
    }
    const read = await Promise.all(picked.map(async (one) => ({ name: one.name, text: await one.text() })));
    setDropped((before) => [
      ...before.filter((old) => !read.some((fresh) => fresh.name === old.name)),
      ...read,
    ]);
    setSaid(null);
  }

  const told = answer !== null && answer !== 'working' && answer.kind === 'done' ? answer.review : undefined;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: files are dropped here; the button does the same
    <div
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        void addFiles(event.dataTransfer.files);
      }}
    >
      <p className="mb-1.5 max-w-[75ch] text-soft">
        Paste C that sets these registers, or drop files with their headers. Mavrek follows it itself, from
        reset on; nothing of it is executed. It is shown as the plan that it would be, with what is suspicious
        in it.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <label className="button cursor-pointer focus-within:outline focus-within:outline-2">
          Add files …
          <input
            type="file"
            multiple
            className="sr-only"
            onChange={(event) => {
              void addFiles(event.target.files);
              event.target.value = '';
            }}
          />
        </label>
        {dropped.map(({ name }) => (
          <span key={name} className="m flex items-baseline gap-1">
            {name}
            <button
              type="button"
              className="link"
              aria-label={`Leave out ${name}`}
              onClick={() => setDropped(dropped.filter((one) => one.name !== name))}
            >
              ×
            </button>
          </span>
        ))}
        {told && told.possible.length > 1 && (
          <label className="flex items-center gap-1.5 text-soft">
            begins with
            <select
              className="py-0 text-ink"
              value={entry}
              onChange={(event) => setEntry(event.target.value)}
            >
              <option value="">as it looks: {told.entries.join(', ') || 'the text itself'}</option>
              {told.possible.map((one) => (
                <option key={one} value={one}>
                  {one}
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="flex items-center gap-1.5 text-soft">
          defined
          <input
            className="m w-40 py-0 text-ink"
            value={defines}
            placeholder="BOARD=2 DEBUG"
            onChange={(event) => setDefines(event.target.value)}
          />
        </label>
      </div>
      <textarea
        aria-label="Existing C"
        className="m mt-1.5 block h-36 w-full text-[12px]"
        spellCheck={false}
        placeholder={'PA->USE = (PA->USE & ~(3u << 8)) | 1u << 8;\nPA->OUTS = 1u << 4;\n…'}
        value={pasted}
        maxLength={LIMITS.codeCharacters}
        onChange={(event) => setPasted(event.target.value)}
      />
      <div aria-live="polite">
        {said && <p className="mt-1">{said}</p>}
        {answer === 'working' && <p className="mt-1 text-soft">Following the code …</p>}
        {answer !== null && answer !== 'working' && answer.kind === 'failed' && (
          <p className="mt-1 text-err">{answer.message}</p>
        )}
        {told && <Summary told={told} />}
      </div>
      {told && <Findings told={told} files={files} />}
      {told && told.writes > 0 && (
        <Differences readings={told.readings} source="as the code sets them up" onSaid={setSaid} />
      )}
    </div>
  );
}

function Summary({ told }: { told: ReviewTold }) {
  const { writes, asPlanned, readings, missing, entries } = told;
  const differ = readings.filter((one) => one.state !== 'same').length;
  return (
    <p className="mt-2">
      {writes === 0 ? (
        <b className="font-semibold">It writes to no register that is known.</b>
      ) : (
        <>
          <b className="font-semibold">{writes === 1 ? '1 write' : `${writes} writes`}</b>
          {entries.length > 0 && (
            <>
              {' '}
              from <span className="m">{entries.join(', ')}</span>
            </>
          )}
          : {asPlanned === 1 ? '1 pad ends' : `${asPlanned} pads end`} as planned,{' '}
          {differ === 0 ? 'none differs' : `${differ} ${differ === 1 ? 'does' : 'do'} not`}.
        </>
      )}
      {missing.length > 0 && (
        <span className="text-soft">
          {' '}
          Headers that are not here: <span className="m">{missing.join(', ')}</span>; registers are known by
          their names then.
        </span>
      )}
    </p>
  );
}

const LEVEL_LOOK = { error: 'text-err', warning: 'text-warn', note: 'text-soft' } as const;

function Findings({ told, files }: { told: ReviewTold; files: readonly CodeFile[] }) {
  const { derived } = useDerived();
  const { select } = useActions();
  const lines = useMemo(
    () => new Map(files.map(({ name, text }) => [name, text.split(/\r\n|\r|\n/)])),
    [files],
  );
  const touched = new Set(derived.lowered.image.map(({ register }) => register.name));
  if (told.findings.length === 0) return null;
  const counts = (['error', 'warning', 'note'] as const).flatMap((level) => {
    const count = told.findings.filter((one) => levelOf(one) === level).length;
    return count > 0 ? [`${count} ${level}${count === 1 ? '' : 's'}`] : [];
  });

  function show(pad: string) {
    const net = derived.byPad.get(pad)?.[0]?.net;
    select(net ? { kind: 'net', id: net.id } : { kind: 'pad', id: pad });
  }

  return (
    <section aria-label="What was found in the code" className="mt-2">
      <h2 className="border-b border-rule pb-1 font-semibold">
        What was found: <span className="font-normal">{counts.join(', ')}</span>
      </h2>
      <ol>
        {told.findings.map((one, at) => {
          const level = levelOf(one);
          const line = lines.get(one.place.file)?.[one.place.line - 1]?.trim() ?? '';
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: findings are never reordered
            <li key={at} className="grid grid-cols-[6rem_1fr] gap-x-3 border-b border-rule py-1">
              <span className="m [overflow-wrap:anywhere] text-soft">
                {one.place.file === PASTED ? 'line ' : `${one.place.file}:`}
                {one.place.line}
              </span>
              <div className="min-w-0">
                <p>
                  <span className={`font-medium ${LEVEL_LOOK[level]}`}>{level}</span> {one.message}.{' '}
                  {one.pads.slice(0, 6).map((pad) => (
                    <button key={pad} type="button" className="link m mr-1" onClick={() => show(pad)}>
                      {pad}
                    </button>
                  ))}
                  {one.register && touched.has(one.register) && (
                    <button
                      type="button"
                      className="link m"
                      onClick={() => select({ kind: 'bits', id: one.register ?? '' })}
                    >
                      {one.register}
                    </button>
                  )}
                </p>
                {line !== '' && (
                  <p
                    className="m overflow-hidden text-[12px] text-ellipsis whitespace-nowrap text-soft"
                    title={line}
                  >
                    {line}
                  </p>
                )}
                <p className="sr-only">{REVIEW_RULES[one.rule][1]}</p>
              </div>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
