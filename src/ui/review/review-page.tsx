'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useId, useState } from 'react';
import type { RevisionHead } from '@/core/plan/history';
import type { Waiver } from '@/core/plan/model/types';
import {
  isOpen,
  type PlanComment,
  type RevisionReview,
  type Subject,
  type VerdictKind,
} from '@/core/review/review';
import { api } from '../client/api';
import { keepAuthorName } from '../client/author';
import { clockOf, dayOf } from '../history/grouped';
import { PageHead } from '../parts/page-head';
import { AuthorField } from '../people/author-field';
import { May } from '../people/me';
import { useAuthor } from '../people/use-author';

export interface ShownRevision {
  name: string;
  seq: number;
  note: string;
  author: string;
  at: string;
  fingerprint: string;
  findings: { rule: string; severity: string; message: string; waived: boolean }[];
  /** With the names of their nets. */
  waivers: Waiver[];
  /** Nets of each circuit. */
  counts: Record<string, number>;
  review: RevisionReview;
  signature: { holds: boolean; text: string } | null;
}

interface Props {
  id: string;
  name: string;
  nets: readonly { id: string; name: string }[];
  revisions: readonly RevisionHead[];
  comments: readonly PlanComment[];
  reviewed: ShownRevision | undefined;
}

/** The review of a kept revision: circuit by circuit, with its findings, waivers and what people say. */
export function ReviewPage({ id, name, nets, revisions, comments, reviewed }: Props) {
  const router = useRouter();
  return (
    <div className="min-h-full">
      <div className="print:hidden">
        <PageHead here="/" />
      </div>
      <main className="mx-auto max-w-5xl px-6 py-6">
        <div className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h1 className="text-xl font-semibold">Review of {name}</h1>
          <Link className="link print:hidden" href={`/plans/${id}`}>
            Open the plan
          </Link>
          <Link className="link print:hidden" href={`/plans/${id}/history`}>
            History
          </Link>
          {reviewed && (
            <label className="ml-auto flex items-baseline gap-2 print:hidden">
              <span className="text-soft">revision</span>
              <select
                value={reviewed.name}
                onChange={(event) =>
                  router.push(`/plans/${id}/review?revision=${encodeURIComponent(event.target.value)}`)
                }
              >
                {revisions.map((one) => (
                  <option key={one.name}>{one.name}</option>
                ))}
              </select>
            </label>
          )}
        </div>
        {reviewed ? (
          <Revision
            id={id}
            one={reviewed}
            before={revisions[revisions.findIndex((one) => one.name === reviewed.name) + 1]?.name}
          />
        ) : (
          <p className="border-y border-rule py-3">
            A review is of a kept revision, so that everybody looks at the same.{' '}
            <Link className="link" href={`/plans/${id}/history`}>
              Keep one first
            </Link>
            .
          </p>
        )}
        <OpenComments id={id} nets={nets} comments={comments} />
      </main>
    </div>
  );
}

const STATES: Record<RevisionReview['state'], string> = {
  open: '○ not looked at yet',
  approved: '✓ approved',
  changes: '▲ changes asked for',
};
const TINTS: Record<RevisionReview['state'], string> = {
  open: 'text-soft',
  approved: '',
  changes: 'text-err',
};

function Revision({ id, one, before }: { id: string; one: ShownRevision; before: string | undefined }) {
  const router = useRouter();
  const field = useId();
  const [author, setAuthor] = useAuthor();
  const [note, setNote] = useState('');
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const { review, signature } = one;
  const who = author.trim();

  async function say(circuit: string, verdict: VerdictKind) {
    if (who === '') {
      setSaid('A review is signed: say who you are.');
      document.getElementById(`${field}-author`)?.focus();
      return;
    }
    setBusy(true);
    keepAuthorName(who);
    const answer = await api.addVerdict(id, {
      revision: one.name,
      circuit,
      verdict,
      note: note.trim(),
      author: who,
    });
    setBusy(false);
    setSaid(answer.ok ? null : (answer.problems[0]?.message ?? 'it could not be said'));
    if (answer.ok) setNote('');
    router.refresh();
  }
  const buttons = (circuit: string, what: string) => (
    <May right="review">
      <span className="flex justify-end gap-2 print:hidden">
        <button
          type="button"
          className="button"
          disabled={busy}
          aria-label={`Approve ${what}`}
          onClick={() => void say(circuit, 'approved')}
        >
          Approve
        </button>
        <button
          type="button"
          className="button"
          disabled={busy}
          aria-label={`Ask for changes in ${what}`}
          onClick={() => void say(circuit, 'changes')}
        >
          Ask for changes
        </button>
      </span>
    </May>
  );

  return (
    <>
      <p className="border-y border-rule py-2">
        <b className="font-semibold">Revision {one.name}</b>, kept on {dayOf(one.at)} at {clockOf(one.at)}
        {one.author !== '' && ` by ${one.author}`}, content <span className="m">{one.fingerprint}</span>
        {one.note !== '' && <span className="text-soft"> · {one.note}</span>}{' '}
        <Link className="link print:hidden" href={`/plans/${id}/at/${one.seq}`}>
          look at it
        </Link>{' '}
        {before !== undefined && (
          <Link
            className="link ml-2 print:hidden"
            href={`/plans/${id}/compare?from=${encodeURIComponent(`${id}~${before}`)}&to=${encodeURIComponent(`${id}~${one.name}`)}`}
          >
            what differs from {before}
          </Link>
        )}
      </p>
      <p role="status" className={`py-2 ${TINTS[review.state]}`} data-testid="review-state">
        {signature ? (
          <span className={signature.holds ? '' : 'text-warn'}>
            {signature.holds ? '✓ ' : '▲ '}
            {signature.text}
          </span>
        ) : (
          STATES[review.state]
        )}
      </p>
      <May right="review">
        <div className="flex flex-wrap items-baseline gap-x-3 gap-y-2 py-2 print:hidden">
          <label htmlFor={`${field}-author`} className="text-soft">
            you are
          </label>
          <AuthorField id={`${field}-author`} className="w-32" value={author} onChange={setAuthor} />
          <label htmlFor={`${field}-note`} className="text-soft">
            note
          </label>
          <input
            id={`${field}-note`}
            className="min-w-0 flex-1"
            maxLength={4000}
            placeholder="goes with what you approve, or ask for"
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </div>
      </May>
      {said && (
        <p role="alert" className="text-err">
          {said}
        </p>
      )}
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-ink text-left text-soft">
            <th className="py-1 pr-4 font-medium">Circuit</th>
            <th className="py-1 pr-4 font-medium">Nets</th>
            <th className="py-1 pr-4 font-medium">State</th>
            <th className="py-1 pr-4 font-medium">Said</th>
            <th className="py-1">
              <span className="sr-only">Say</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {review.circuits.map(({ circuit, state, verdicts }) => (
            <tr key={circuit.id} className="border-b border-rule align-baseline" data-circuit={circuit.name}>
              <td className="py-1 pr-4 font-medium">{circuit.name}</td>
              <td className="m pr-4">{one.counts[circuit.id] ?? 0}</td>
              <td className={`whitespace-nowrap pr-4 ${TINTS[state]}`}>{STATES[state]}</td>
              <td className="pr-4">
                {verdicts.map((verdict) => (
                  <span key={verdict.author} className="mr-3 inline-block [overflow-wrap:anywhere]">
                    {verdict.verdict === 'approved' ? '✓' : '▲'} {verdict.author}{' '}
                    <span className="text-soft">
                      {dayOf(verdict.at)}
                      {verdict.note !== '' && `: ${verdict.note}`}
                    </span>
                  </span>
                ))}
              </td>
              <td className="py-0.5">{buttons(circuit.id, circuit.name)}</td>
            </tr>
          ))}
          <tr className="align-baseline">
            <td className="py-1 pr-4 font-medium" colSpan={4}>
              All of it
            </td>
            <td className="py-0.5">{buttons('', 'all of it')}</td>
          </tr>
        </tbody>
      </table>
      <Findings one={one} />
    </>
  );
}

function Findings({ one }: { one: ShownRevision }) {
  const open = one.findings.filter(({ waived }) => !waived);
  return (
    <div className="grid gap-x-8 md:grid-cols-2">
      <section aria-labelledby="review-findings" className="mt-5">
        <h2 id="review-findings" className="border-b border-ink pb-0.5 text-[17px] font-semibold">
          Findings
        </h2>
        {open.length === 0 ? (
          <p className="py-1 text-soft">None.</p>
        ) : (
          <ul>
            {open.map((finding) => (
              <li key={`${finding.rule} ${finding.message}`} className="border-b border-rule py-1">
                <span className={finding.severity === 'error' ? 'text-err' : 'text-warn'}>
                  {finding.severity}
                </span>{' '}
                <span className="m">{finding.rule}</span>: {finding.message}
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-labelledby="review-waivers" className="mt-5">
        <h2 id="review-waivers" className="border-b border-ink pb-0.5 text-[17px] font-semibold">
          Waivers
        </h2>
        {one.waivers.length === 0 ? (
          <p className="py-1 text-soft">Nothing was let stand.</p>
        ) : (
          <ul>
            {one.waivers.map((waiver) => (
              <li key={waiver.id} className="border-b border-rule py-1">
                <span className="m">{waiver.rule}</span> on {[...waiver.nets, ...waiver.pads].join(', ')}: “
                {waiver.reason}”{' '}
                <span className="text-soft">
                  {waiver.author}, {waiver.date}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
    </div>
  );
}

/** Open comments on the plan, each with a way to what it is about. */
function OpenComments({ id, nets, comments }: Pick<Props, 'id' | 'nets' | 'comments'>) {
  const router = useRouter();
  const [failed, setFailed] = useState<{ id: string; why: string } | null>(null);
  const [author] = useAuthor();
  const open = comments.filter(isOpen);
  return (
    <section aria-labelledby="review-comments" className="mt-5">
      <h2 id="review-comments" className="border-b border-ink pb-0.5 text-[17px] font-semibold">
        Open comments
      </h2>
      {open.length === 0 ? (
        <p className="py-1 text-soft">
          None. Whoever opens the plan says something beside a net, a pad or a finding.
        </p>
      ) : (
        <ul>
          {open.map((one) => (
            <li key={one.id} className="border-b border-rule py-1" data-comment={one.id}>
              <About id={id} subject={one.subject} nets={nets} />{' '}
              <span className="text-soft">
                {one.author || 'somebody'}, {dayOf(one.at)}
              </span>
              <p className="whitespace-pre-wrap [overflow-wrap:anywhere]">{one.text}</p>
              {comments
                .filter((other) => other.answers === one.id)
                .map((answer) => (
                  <p key={answer.id} className="border-l-2 border-rule pl-2 [overflow-wrap:anywhere]">
                    <span className="text-soft">{answer.author || 'somebody'}:</span> {answer.text}
                  </p>
                ))}
              <May right="comment">
                <button
                  type="button"
                  className="link leading-6 print:hidden"
                  onClick={async () => {
                    const answer = await api.resolveComment(id, one.id, true, author);
                    setFailed(
                      answer.ok
                        ? null
                        : { id: one.id, why: answer.problems[0]?.message ?? 'it could not be resolved' },
                    );
                    if (answer.ok) router.refresh();
                  }}
                >
                  resolve{author !== '' && ` as ${author}`}
                </button>
              </May>
              {failed?.id === one.id && (
                <span role="alert" className="ml-2 text-err">
                  not resolved: {failed.why}
                </span>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function About({ id, subject, nets }: { id: string; subject: Subject; nets: Props['nets'] }) {
  const named = (net: string): string => nets.find((one) => one.id === net)?.name ?? 'a net that is gone';
  const link = (select: string, text: string) => (
    <Link className="link font-semibold" href={`/plans/${id}?select=${encodeURIComponent(select)}`}>
      {text}
    </Link>
  );
  switch (subject.kind) {
    case 'net':
      return link(`net:${subject.net}`, named(subject.net));
    case 'setting':
      return link(`net:${subject.net}`, `${subject.key} of ${named(subject.net)}`);
    case 'pad':
      return link(`pad:${subject.pad}`, `pad ${subject.pad}`);
    case 'finding': {
      const [first] = subject.nets;
      const what = [...subject.nets.map(named), ...subject.pads].join(', ');
      const text = `${subject.rule}${what === '' ? '' : ` of ${what}`}`;
      return first === undefined ? <b className="font-semibold">{text}</b> : link(`net:${first}`, text);
    }
    default:
      return <b className="font-semibold">the plan</b>;
  }
}
