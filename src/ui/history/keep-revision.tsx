'use client';

import { useId, useState } from 'react';
import type { RevisionHead } from '@/core/plan/history';
import { api } from '../client/api';
import { keepAuthorName } from '../client/author';
import { AuthorField } from '../people/author-field';
import { useAuthor } from '../people/use-author';
import { sendEdit } from './bring-back';
import { nextRevision } from './grouped';

interface Props {
  id: string;
  /** The newest edit. */
  seq: number;
  /** The revision that the plan says it is. */
  now: string;
  /** The one that was kept last. */
  newest: RevisionHead | undefined;
  names: readonly string[];
  onDone: (problem: string | null) => void;
}

/** Keeps the plan as it is under the revision that it says it is; or gives it the next one first. */
export function KeepRevision({ id, seq, now, newest, names, onDone }: Props) {
  const field = useId();
  const [note, setNote] = useState('');
  const [author, setAuthor] = useAuthor();
  const [busy, setBusy] = useState(false);
  const kept = names.includes(now);
  const isSame = newest?.name === now && newest.seq === seq;

  async function keep() {
    setBusy(true);
    if (author.trim() !== '') keepAuthorName(author);
    const answer = await api.keepRevision(id, seq, note.trim(), author.trim());
    setBusy(false);
    if (answer.ok) setNote('');
    onDone(answer.ok ? null : (answer.problems[0]?.message ?? 'the revision could not be kept'));
  }
  async function next() {
    setBusy(true);
    const to = free(nextRevision(now), names);
    const sent = await sendEdit(id, seq, { kind: 'plan.set', field: 'revision', from: now, to });
    setBusy(false);
    onDone(sent.ok ? null : (sent.problems[0]?.message ?? 'the revision could not be changed'));
  }

  if (kept)
    return (
      <p className="flex flex-wrap items-baseline gap-x-3 py-2">
        <span className={isSame ? 'text-soft' : 'text-warn'}>
          {isSame
            ? `The plan is revision ${now}, as it was kept.`
            : `The plan has changed since revision ${now} was kept, and still says that it is ${now}.`}
        </span>
        <button type="button" className="button" disabled={busy} onClick={() => void next()}>
          Make it revision {free(nextRevision(now), names)}
        </button>
      </p>
    );
  return (
    <form
      className="flex flex-wrap items-baseline gap-x-3 gap-y-2 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <label htmlFor={`${field}-note`} className="text-soft">
        note
      </label>
      <input
        id={`${field}-note`}
        className="min-w-0 flex-1"
        maxLength={4000}
        placeholder="what this revision is for: first boards, sent on Friday"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <label htmlFor={`${field}-author`} className="text-soft">
        by
      </label>
      <AuthorField id={`${field}-author`} className="w-28" value={author} onChange={setAuthor} />
      <button type="submit" className="button button-strong" disabled={busy || now.trim() === ''}>
        Keep as revision {now.trim() === '' ? '…' : now}
      </button>
      {now.trim() === '' && (
        <span className="text-soft">The plan says no revision; give it one in its settings.</span>
      )}
    </form>
  );
}

/** The first of the revisions that follow that is not kept yet. */
function free(name: string, names: readonly string[]): string {
  let found = name;
  while (names.includes(found)) found = nextRevision(found);
  return found;
}
