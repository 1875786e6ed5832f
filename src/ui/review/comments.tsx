'use client';

import { useId, useState } from 'react';
import { titleOf } from '@/core/description/meanings';
import { isAbout, isOpen, type PlanComment, type Subject } from '@/core/review/review';
import { api } from '../client/api';
import { keepAuthorName } from '../client/author';
import { refreshComments, useComments } from '../client/comments';
import { Section } from '../inspector/section';
import { AuthorField } from '../people/author-field';
import { May } from '../people/me';
import { useAuthor } from '../people/use-author';
import { useActions, useDerived } from '../workspace/context';

/** What is said about a net, a pad, a finding or the plan, and a field to say something. */
export function Comments({ about }: { about: Subject }) {
  const { planId } = useActions();
  const all = useComments(planId);
  const own = all.filter((one) => one.answers === null && isAbout(one.subject, about));
  const open = own.filter(isOpen);
  const [resolvedToo, setResolvedToo] = useState(false);
  const shown = resolvedToo ? own : open;
  const resolved = own.length - open.length;
  return (
    <Section title="Comments" aside={open.length > 0 ? `${open.length} open` : undefined}>
      {shown.map((one) => (
        <Thread key={one.id} one={one} answers={all.filter((other) => other.answers === one.id)} />
      ))}
      {resolved > 0 && (
        <button type="button" className="link" onClick={() => setResolvedToo(!resolvedToo)}>
          {resolvedToo ? 'hide those that are resolved' : `${resolved} resolved`}
        </button>
      )}
      <May right="comment">
        <Say about={about} />
      </May>
    </Section>
  );
}

/** A comment with its answers. */
export function Thread({ one, answers }: { one: PlanComment; answers: readonly PlanComment[] }) {
  const { planId } = useActions();
  const [answering, setAnswering] = useState(false);
  const [author] = useAuthor();
  const [said, setSaid] = useState<string | null>(null);
  async function resolve() {
    const answer = await api.resolveComment(planId, one.id, isOpen(one), author);
    if (!answer.ok) setSaid(answer.problems[0]?.message ?? 'it could not be resolved');
    refreshComments(planId);
  }
  return (
    <article className="mb-2 border-l-2 border-rule pl-2" data-comment={one.id} data-open={isOpen(one)}>
      <Words one={one} />
      {answers.map((answer) => (
        <div key={answer.id} className="mt-1 border-l-2 border-rule pl-2">
          <Words one={answer} />
        </div>
      ))}
      <p className="flex gap-3">
        {one.resolvedAt !== null && (
          <span className="text-soft">resolved by {one.resolvedBy || 'somebody'}</span>
        )}
        <May right="comment">
          <button type="button" className="link leading-6" onClick={() => setAnswering(!answering)}>
            answer
          </button>
          <button type="button" className="link leading-6" onClick={() => void resolve()}>
            {isOpen(one) ? 'resolve' : 'open again'}
            {author !== '' && ` as ${author}`}
          </button>
        </May>
      </p>
      {said && (
        <p role="alert" className="text-err">
          {said}
        </p>
      )}
      {answering && <Say about={one.subject} answers={one.id} onSaid={() => setAnswering(false)} />}
    </article>
  );
}

function Words({ one }: { one: PlanComment }) {
  const { derived } = useDerived();
  const { subject } = one;
  const { recipe } = derived.device.description;
  return (
    <>
      <p className="text-soft" suppressHydrationWarning>
        <span className="text-ink">{one.author || 'somebody'}</span>,{' '}
        {new Date(one.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
        {subject.kind === 'setting' &&
          one.answers === null &&
          ` · ${titleOf(recipe, subject.key as never).toLowerCase()}`}
      </p>
      <p className="whitespace-pre-wrap [overflow-wrap:anywhere]">{one.text}</p>
    </>
  );
}

function Say({ about, answers, onSaid }: { about: Subject; answers?: string; onSaid?: () => void }) {
  const { planId } = useActions();
  const { derived } = useDerived();
  const id = useId();
  const [text, setText] = useState('');
  const [author, setAuthor] = useAuthor();
  const [key, setKey] = useState('');
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const net = about.kind === 'net' && answers === undefined ? derived.byNet.get(about.net) : undefined;
  const keys = Object.keys(net?.planned?.settings.values ?? {});
  const { recipe } = derived.device.description;

  async function say() {
    setBusy(true);
    keepAuthorName(author);
    const subject: Subject =
      about.kind === 'net' && key !== '' ? { kind: 'setting', net: about.net, key } : about;
    const answer = await api.addComment(planId, subject, text.trim(), author.trim(), answers ?? null);
    setBusy(false);
    setSaid(answer.ok ? null : (answer.problems[0]?.message ?? 'it could not be said'));
    if (!answer.ok) return;
    setText('');
    refreshComments(planId);
    onSaid?.();
  }

  return (
    <form
      className="mt-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() !== '') void say();
      }}
    >
      <textarea
        id={id}
        aria-label={answers === undefined ? 'A comment' : 'An answer'}
        rows={text === '' ? 1 : 3}
        maxLength={4000}
        placeholder={answers === undefined ? 'say something to whoever reviews this' : 'answer'}
        className="w-full"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return;
          event.preventDefault();
          if (text.trim() !== '') void say();
        }}
      />
      {text.trim() !== '' && (
        <p className="mt-1 flex flex-wrap items-center gap-2">
          {keys.length > 0 && (
            <select aria-label="About" value={key} onChange={(event) => setKey(event.target.value)}>
              <option value="">about the net</option>
              {keys.map((one) => (
                <option key={one} value={one}>
                  about its {titleOf(recipe, one as never).toLowerCase()}
                </option>
              ))}
            </select>
          )}
          <AuthorField label="Your name" className="w-20" value={author} onChange={setAuthor} />
          <button type="submit" className="button" disabled={busy}>
            Say
          </button>
        </p>
      )}
      {said && (
        <p role="alert" className="text-err">
          {said}
        </p>
      )}
    </form>
  );
}
