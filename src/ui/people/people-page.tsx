'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { hasWords, wordsOf } from '@/core/base/text/search-words';
import {
  type AuditEntry,
  type Invitation,
  type Me,
  type Member,
  ROLE_WORDS,
  ROLES,
  type Role,
} from '@/core/people/rights';
import { type Answer, api } from '../client/api';
import { clockOf, dayOf } from '../history/grouped';
import { PageHead } from '../parts/page-head';
import { ProblemAlert } from '../parts/problem-alert';

interface Props {
  me: Me;
  members: readonly Member[];
  /** For owners. */
  owned: { invitations: readonly Invitation[]; audit: { entries: AuditEntry[]; more: boolean } } | undefined;
  /** What operations are called, by method and path. */
  words: Readonly<Record<string, string>>;
}

/** Who is in the workspace and may do what; for owners also invitations and the audit log. */
export function PeoplePage({ me, members, owned, words }: Props) {
  const router = useRouter();
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  async function act<T>(answer: Promise<Answer<T>>, done?: (value: T) => void) {
    const result = await answer;
    setProblems(result.ok ? [] : result.problems);
    if (result.ok) done?.(result.value);
    router.refresh();
  }
  return (
    <div className="min-h-full">
      <PageHead here="/people" />
      <main className="mx-auto max-w-5xl px-6 py-6">
        <div className="mb-3 flex flex-wrap items-baseline gap-x-4">
          <h1 className="text-xl font-semibold">People in {me.workspace.name}</h1>
          {owned && <RenameWorkspace me={me} act={act} />}
        </div>
        <ProblemAlert problems={problems} className="mb-3" onClose={() => setProblems([])} />
        <Members me={me} members={members} isOwner={owned !== undefined} act={act} />
        <dl className="mt-3 grid grid-cols-[max-content_1fr] gap-x-4 gap-y-0.5 text-soft">
          {ROLES.map((role) => (
            <div key={role} className="contents">
              <dt>{role}</dt>
              <dd>{ROLE_WORDS[role]}</dd>
            </div>
          ))}
        </dl>
        {owned && <Invitations invitations={owned.invitations} act={act} />}
        {owned && <Audit first={owned.audit} words={words} />}
      </main>
    </div>
  );
}

type Act = <T>(answer: Promise<Answer<T>>, done?: (value: T) => void) => Promise<void>;

function RenameWorkspace({ me, act }: { me: Me; act: Act }) {
  const [name, setName] = useState<string | null>(null);
  if (name === null)
    return (
      <button type="button" className="link" onClick={() => setName(me.workspace.name)}>
        rename the workspace
      </button>
    );
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void act(api.renameWorkspace(name.trim()), () => window.location.reload());
      }}
    >
      <input
        aria-label="Name of the workspace"
        maxLength={120}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <button type="submit" className="button" disabled={name.trim() === ''}>
        Rename
      </button>
      <button type="button" className="link" onClick={() => setName(null)}>
        leave it
      </button>
    </form>
  );
}

const HEAD = 'border-b border-ink text-left text-soft';

function Members({
  me,
  members,
  isOwner,
  act,
}: {
  me: Me;
  members: readonly Member[];
  isOwner: boolean;
  act: Act;
}) {
  const [removing, setRemoving] = useState<string | null>(null);
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className={HEAD}>
          <th className="py-1 pr-4 font-medium">Name</th>
          <th className="py-1 pr-4 font-medium">Address</th>
          <th className="py-1 pr-4 font-medium">Role</th>
          <th className="py-1 pr-4 font-medium max-sm:hidden">Since</th>
          <th className="py-1">
            <span className="sr-only">Actions</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {members.map((one) => (
          <tr key={one.id} className="border-b border-rule align-baseline" data-member={one.name}>
            <td className="py-1 pr-4 font-medium [overflow-wrap:anywhere]">
              {one.name}
              {one.id === me.id && <span className="font-normal text-soft"> (you)</span>}
            </td>
            <td className="pr-4 text-soft [overflow-wrap:anywhere]">{one.email}</td>
            <td className="py-0.5 pr-4">
              {isOwner ? (
                <select
                  aria-label={`Role of ${one.name}`}
                  value={one.role}
                  onChange={(event) => void act(api.setRole(one.id, event.target.value as Role))}
                >
                  {ROLES.map((role) => (
                    <option key={role}>{role}</option>
                  ))}
                </select>
              ) : (
                one.role
              )}
            </td>
            <td className="whitespace-nowrap pr-4 text-soft max-sm:hidden" suppressHydrationWarning>
              {dayOf(one.since)}
            </td>
            <td className="whitespace-nowrap text-right">
              {isOwner &&
                one.id !== me.id &&
                (removing === one.id ? (
                  <span className="inline-flex gap-2">
                    <button
                      type="button"
                      className="button"
                      onClick={() => void act(api.removeMember(one.id), () => setRemoving(null))}
                    >
                      Take out of the workspace
                    </button>
                    <button
                      type="button"
                      className="button text-err"
                      title="What they did stays under a pseudonym; the account goes"
                      onClick={() => void act(api.deletePerson(one.id), () => setRemoving(null))}
                    >
                      Delete the account
                    </button>
                    <button type="button" className="link" onClick={() => setRemoving(null)}>
                      leave it
                    </button>
                  </span>
                ) : (
                  <button
                    type="button"
                    className="link"
                    aria-label={`Remove ${one.name}`}
                    onClick={() => setRemoving(one.id)}
                  >
                    remove …
                  </button>
                ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Invitations({ invitations, act }: { invitations: readonly Invitation[]; act: Act }) {
  const [email, setEmail] = useState('');
  const [role, setRole] = useState<Role>('editor');
  const [made, setMade] = useState<{ email: string; link: string } | null>(null);
  return (
    <section aria-labelledby="invitations" className="mt-6">
      <h2 id="invitations" className="border-b border-ink pb-0.5 text-[17px] font-semibold">
        Invitations
      </h2>
      <form
        className="flex flex-wrap items-baseline gap-2 py-2"
        onSubmit={(event) => {
          event.preventDefault();
          const to = email.trim();
          void act(api.invite(to, role), ({ link }) => {
            setMade({ email: to, link });
            setEmail('');
          });
        }}
      >
        <input
          type="email"
          aria-label="Address to invite"
          placeholder="their e-mail address"
          maxLength={254}
          className="w-64"
          value={email}
          onChange={(event) => setEmail(event.target.value)}
        />
        <select
          aria-label="Role to invite as"
          value={role}
          onChange={(event) => setRole(event.target.value as Role)}
        >
          {ROLES.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
        <button type="submit" className="button button-strong" disabled={email.trim() === ''}>
          Make a link
        </button>
        <span className="text-soft">Good once, for 14 days, for that address.</span>
      </form>
      {made && (
        <p role="status" className="mb-2 border border-ink bg-sheet px-2 py-1">
          Send this to {made.email}; it is not shown again:
          <br />
          <span className="m select-all [overflow-wrap:anywhere]" data-testid="invitation-link">
            {made.link}
          </span>
        </p>
      )}
      <ul>
        {invitations.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1"
            data-invited={one.email}
          >
            <span className="[overflow-wrap:anywhere]">{one.email}</span>
            <span className="text-soft" suppressHydrationWarning>
              {one.role}, until {dayOf(one.expiresAt)}
            </span>
            <button
              type="button"
              className="link ml-auto"
              aria-label={`Withdraw the invitation of ${one.email}`}
              onClick={() => void act(api.withdrawInvitation(one.id))}
            >
              withdraw
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Audit({
  first,
  words,
}: {
  first: { entries: AuditEntry[]; more: boolean };
  words: Readonly<Record<string, string>>;
}) {
  const [older, setOlder] = useState<{ entries: AuditEntry[]; more: boolean }>({
    entries: [],
    more: first.more,
  });
  const [wanted, setWanted] = useState('');
  const all = [...first.entries, ...older.entries];
  const shown = all.filter((one) =>
    hasWords(wordsOf(wanted), [one.who, one.via, says(one, words), one.target]),
  );
  async function more() {
    const answer = await api.audit(all.at(-1)?.id);
    if (answer.ok)
      setOlder({ entries: [...older.entries, ...answer.value.entries], more: answer.value.more });
  }
  return (
    <section aria-labelledby="audit" className="mt-6">
      <div className="flex flex-wrap items-baseline gap-x-4 border-b border-ink pb-0.5">
        <h2 id="audit" className="text-[17px] font-semibold">
          Audit log
        </h2>
        <span className="text-soft">who did what; edits of plans are in their histories</span>
        <input
          aria-label="Find in the audit log"
          placeholder="find"
          className="ml-auto"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
      </div>
      <table className="w-full border-collapse">
        <thead className="sr-only">
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>What</th>
            <th>Of</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((one) => (
            <tr key={one.id} className="border-b border-rule align-baseline">
              <td className="whitespace-nowrap py-0.5 pr-4 text-soft" suppressHydrationWarning>
                {dayOf(one.at)} {clockOf(one.at)}
              </td>
              <td className="pr-4 [overflow-wrap:anywhere]">
                {one.who || 'nobody'}
                {one.via !== 'session' && <span className="text-soft"> ({one.via})</span>}
              </td>
              <td className={`pr-4 ${one.status >= 400 ? 'text-err' : ''}`}>
                {one.status >= 400 && 'refused: '}
                {says(one, words)}
              </td>
              <td className="m text-soft [overflow-wrap:anywhere]">{one.target}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length === 0 && <p className="py-1 text-soft">Nothing of that kind.</p>}
      {older.more && (
        <button type="button" className="link mt-2" onClick={() => void more()}>
          older ones
        </button>
      )}
    </section>
  );
}

/** What was done, in the words of the interface; what it answers is of no interest here. */
const says = ({ action }: AuditEntry, words: Readonly<Record<string, string>>): string =>
  (words[action] ?? action).split(';')[0] ?? action;
