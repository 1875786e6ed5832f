'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useRef, useState } from 'react';
import { hasWords, wordsOf } from '@/core/base/text/search-words';
import type { History, HistoryEntry, RevisionHead } from '@/core/plan/history';
import { api } from '../client/api';
import { PageHead } from '../parts/page-head';
import { May } from '../people/me';
import { bringBack } from './bring-back';
import { clockOf, dayOf, groupedHistory, type HistoryGroup } from './grouped';
import { KeepRevision } from './keep-revision';

interface Props {
  id: string;
  name: string;
  /** The revision that the plan says it is now. */
  revision: string;
  seq: number;
  history: History;
  revisions: RevisionHead[];
}

/** What became of a plan: its edits in words, and the moments that are kept by name. */
export function HistoryPage({ id, name, revision, seq, history, revisions }: Props) {
  const router = useRouter();
  const [older, setOlder] = useState<HistoryEntry[]>([]);
  const [more, setMore] = useState(history.more);
  const [words, setWords] = useState('');
  const [said, setSaid] = useState<string | null>(null);
  // Edits never change: what was seen once stays, also when newer ones push it off the page that the server sends.
  const seen = useRef(new Map<number, HistoryEntry>());
  const entries = useMemo(() => {
    for (const one of [...history.entries, ...older]) seen.current.set(one.seq, one);
    return [...seen.current.values()].sort((a, b) => b.seq - a.seq);
  }, [history, older]);
  const shown = entries.filter(({ text, author, seq }) =>
    hasWords(wordsOf(words), [text, author, String(seq)]),
  );
  const groups = groupedHistory(shown, new Set(revisions.map((one) => one.seq)));

  async function showOlder() {
    const answer = await api.history(id, entries.at(-1)?.seq);
    if (!answer.ok) {
      setSaid(answer.problems[0]?.message ?? 'older edits cannot be read');
      return;
    }
    setOlder([...older, ...answer.value.entries]);
    setMore(answer.value.more);
  }

  const act = useCallback(
    async (what: Promise<string | null>) => {
      setSaid(await what);
      router.refresh();
    },
    [router],
  );

  return (
    <div className="min-h-full">
      <PageHead here="/" />
      <main className="mx-auto max-w-5xl px-6 py-6">
        <div className="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h1 className="text-xl font-semibold">History of {name}</h1>
          <Link className="link" href={`/plans/${id}`}>
            Open the plan
          </Link>
          <Link className="link" href={`/plans/${id}/compare`}>
            Compare
          </Link>
        </div>
        {said && (
          <p role="alert" className="mb-3 border-y border-err py-1.5 text-err">
            {said}
          </p>
        )}
        <Revisions
          id={id}
          revisions={revisions}
          seq={seq}
          now={revision}
          onDone={(problem) => act(Promise.resolve(problem))}
        />
        <section aria-labelledby="edits">
          <div className="mt-6 flex items-baseline gap-3 border-b border-ink pb-1">
            <h2 id="edits" className="mr-auto text-[17px] font-semibold">
              Edits
            </h2>
            <input
              aria-label="Search the edits"
              placeholder="a net, a pad, a name"
              className="w-56"
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          </div>
          {entries.length === 0 && (
            <p className="py-3 text-soft">Nothing has been changed since the plan was made.</p>
          )}
          {entries.length > 0 && shown.length === 0 && <p className="py-3 text-soft">No edit says that.</p>}
          {groups.map((group) => (
            <Group
              key={group.entries[0]?.seq}
              id={id}
              group={group}
              newest={seq}
              revisions={revisions}
              onBringBack={(one) => act(broughtBack(id, one))}
            />
          ))}
          {more ? (
            <p className="py-3">
              <button type="button" className="button" onClick={() => void showOlder()}>
                Older edits
              </button>
            </p>
          ) : (
            <p className="flex items-baseline gap-3 border-b border-rule py-1.5 text-soft">
              <span className="m w-14 text-right">0</span>
              <span className="mr-auto">
                made on {dayOf(history.createdAt)} at {clockOf(history.createdAt)}
              </span>
              <Link className="link" href={`/plans/${id}/at/0`}>
                look
              </Link>
            </p>
          )}
        </section>
      </main>
    </div>
  );
}

/** Brings the plan back as it was behind an edit; says what is wrong, or null. */
async function broughtBack(id: string, one: HistoryEntry): Promise<string | null> {
  const then = await api.planAt(id, one.seq);
  if (!then.ok) return then.problems[0]?.message ?? 'that moment cannot be read';
  return bringBack(id, then.value.plan, `edit ${one.seq}, ${dayOf(one.at)} ${clockOf(one.at)}`);
}

function Revisions({
  id,
  revisions,
  seq,
  now,
  onDone,
}: {
  id: string;
  revisions: readonly RevisionHead[];
  seq: number;
  now: string;
  onDone: (problem: string | null) => void;
}) {
  return (
    <section aria-labelledby="revisions">
      <h2 id="revisions" className="border-b border-ink pb-1 text-[17px] font-semibold">
        Revisions
      </h2>
      {revisions.length === 0 ? (
        <p className="py-2 text-soft">
          None is kept yet. A kept revision is the plan as it is, with its findings and code, for good: what a
          board is ordered by.
        </p>
      ) : (
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-rule text-left text-soft">
              <th className="py-1 pr-4 font-medium">Revision</th>
              <th className="py-1 pr-4 font-medium">Kept</th>
              <th className="py-1 pr-4 font-medium">By</th>
              <th className="py-1 pr-4 font-medium">Note</th>
              <th className="py-1 pr-4 font-medium">Findings</th>
              <th className="py-1 pr-4 font-medium">Content</th>
              <th className="py-1">
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {revisions.map((one, at) => {
              const before = revisions[at + 1];
              return (
                <tr key={one.name} className="border-b border-rule align-baseline" data-revision={one.name}>
                  <td className="py-1 pr-4 font-semibold">{one.name}</td>
                  <td className="whitespace-nowrap pr-4 text-soft" suppressHydrationWarning>
                    {dayOf(one.at)}, {clockOf(one.at)}
                  </td>
                  <td className="pr-4">{one.author || <span className="text-soft">not said</span>}</td>
                  <td className="whitespace-pre-wrap pr-4">{one.note}</td>
                  <td className="whitespace-nowrap pr-4">
                    <span className={one.errors > 0 ? 'text-err' : 'text-soft'}>▲ {one.errors}</span>{' '}
                    <span className={one.warnings > 0 ? 'text-warn' : 'text-soft'}>△ {one.warnings}</span>
                  </td>
                  <td className="m pr-4 text-soft">{one.fingerprint}</td>
                  <td className="whitespace-nowrap text-right">
                    <Link className="link" href={`/plans/${id}/at/${one.seq}`}>
                      look
                    </Link>{' '}
                    <Link
                      className="link ml-2"
                      href={`/plans/${id}/compare?from=${ref(id, one.name)}&to=${id}`}
                      aria-label={`Compare ${one.name} with now`}
                    >
                      with now
                    </Link>{' '}
                    <Link
                      className="link ml-2"
                      href={`/plans/${id}/review?revision=${encodeURIComponent(one.name)}`}
                      aria-label={`Review ${one.name}`}
                    >
                      review
                    </Link>{' '}
                    {before && (
                      <Link
                        className="link ml-2"
                        href={`/plans/${id}/compare?from=${ref(id, before.name)}&to=${ref(id, one.name)}`}
                        aria-label={`Compare ${before.name} with ${one.name}`}
                      >
                        with {before.name}
                      </Link>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <May right="edit">
        <KeepRevision
          id={id}
          seq={seq}
          now={now}
          newest={revisions[0]}
          names={revisions.map(({ name }) => name)}
          onDone={onDone}
        />
      </May>
    </section>
  );
}

/** A revision as addresses name it. */
const ref = (id: string, name: string): string => encodeURIComponent(`${id}~${name}`);

function Group({
  id,
  group: { day, author, client, entries },
  newest,
  revisions,
  onBringBack,
}: {
  id: string;
  group: HistoryGroup;
  newest: number;
  revisions: readonly RevisionHead[];
  onBringBack: (one: HistoryEntry) => void;
}) {
  const [last, first] = [entries[0], entries.at(-1)];
  const revision = revisions.find((one) => one.seq === last?.seq);
  return (
    <div className="mt-3">
      {revision && (
        <p className="border-y border-pick bg-pickbg px-2 py-0.5 font-semibold">Revision {revision.name}</p>
      )}
      <h3 className="flex items-baseline gap-2 pt-1 font-semibold" suppressHydrationWarning>
        {day}, {first && clockOf(first.at)}
        {first && last && clockOf(first.at) !== clockOf(last.at) && `–${clockOf(last.at)}`}
        <span className="font-normal text-soft">
          {author === '' ? `somebody (window ${client.slice(0, 4)})` : author} · {entries.length}{' '}
          {entries.length === 1 ? 'edit' : 'edits'}
        </span>
      </h3>
      <ul>
        {entries.map((one) => (
          <li
            key={one.seq}
            className="group flex items-baseline gap-3 border-b border-rule py-1 hover:bg-sheet"
            data-seq={one.seq}
          >
            <span className="m w-14 text-right text-soft">{one.seq}</span>
            <span className="m text-soft" suppressHydrationWarning>
              {clockOf(one.at)}
            </span>
            <span className="mr-auto min-w-0">
              {one.text}
              {one.steps > 1 && <span className="text-soft"> · {one.steps} steps</span>}
            </span>
            {one.seq === newest ? (
              <span className="text-soft">now</span>
            ) : (
              <span className="whitespace-nowrap">
                <Link
                  className="link"
                  href={`/plans/${id}/at/${one.seq}`}
                  aria-label={`Look at edit ${one.seq}`}
                >
                  look
                </Link>
                <Link
                  className="link ml-3"
                  href={`/plans/${id}/compare?from=${id}@${one.seq}&to=${id}`}
                  aria-label={`Compare edit ${one.seq} with now`}
                >
                  compare
                </Link>
                <May right="edit">
                  <button
                    type="button"
                    className="link ml-3"
                    aria-label={`Bring edit ${one.seq} back`}
                    onClick={() => onBringBack(one)}
                  >
                    bring back
                  </button>
                </May>
              </span>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
