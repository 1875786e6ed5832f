'use client';

import { useRouter } from 'next/navigation';
import { type ReactNode, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import {
  type Me,
  ROLE_WORDS,
  roleMay,
  SCOPE_WORDS,
  SCOPES,
  type Scope,
  type SessionHead,
  type TokenHead,
} from '@/core/people/rights';
import { type Answer, api } from '../client/api';
import { dayOf } from '../history/grouped';
import { PageHead } from '../parts/page-head';
import { ProblemAlert } from '../parts/problem-alert';
import { Field } from './field';

interface Props {
  me: Me;
  sessions: readonly SessionHead[];
  tokens: readonly TokenHead[];
}

/** One's own account: name, password, where one is signed in, access tokens, workspaces, and its end. */
export function AccountPage({ me, sessions, tokens }: Props) {
  const router = useRouter();
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  async function act<T>(answer: Promise<Answer<T>>, done?: (value: T) => void) {
    const result = await answer;
    setProblems(result.ok ? [] : result.problems);
    if (!result.ok) return;
    if (done) done(result.value);
    else router.refresh();
  }
  const away = () => window.location.assign('/');
  return (
    <div className="min-h-full">
      <PageHead here="/account" />
      <main className="mx-auto max-w-5xl px-6 py-6">
        <h1 className="mb-3 text-xl font-semibold">Your account</h1>
        <ProblemAlert problems={problems} className="mb-3" onClose={() => setProblems([])} />
        <div className="grid gap-x-10 gap-y-6 md:grid-cols-2">
          <Own title="Name and password">
            <Renaming me={me} act={act} />
            <Password act={act} />
          </Own>
          <Own title="Workspaces">
            <ul className="mb-3">
              {me.workspaces.map((one) => (
                <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1">
                  <b className="font-semibold">{one.name}</b>
                  <span className="text-soft" title={ROLE_WORDS[one.role]}>
                    {one.role}
                  </span>
                  {one.id === me.workspace.id ? (
                    <span className="ml-auto text-soft">you are here</span>
                  ) : (
                    <button
                      type="button"
                      className="link ml-auto"
                      aria-label={`Go to ${one.name}`}
                      onClick={() => void act(api.enterWorkspace(one.id), away)}
                    >
                      go there
                    </button>
                  )}
                </li>
              ))}
              {me.workspaces.length === 0 && (
                <li className="text-soft">
                  You are in none. An owner of one can invite you; or make your own.
                </li>
              )}
            </ul>
            <NewWorkspace act={act} away={away} />
          </Own>
          <Own title="Signed in">
            <ul className="mb-3">
              {sessions.map((one) => (
                <li key={one.id} className="flex items-baseline gap-3 border-b border-rule py-1">
                  <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{browserOf(one.agent)}</span>
                  <span className="whitespace-nowrap text-soft" suppressHydrationWarning>
                    since {dayOf(one.madeAt)}
                  </span>
                  {one.own ? (
                    <span className="text-soft">here</span>
                  ) : (
                    <button type="button" className="link" onClick={() => void act(api.endSession(one.id))}>
                      sign out
                    </button>
                  )}
                </li>
              ))}
            </ul>
            <button type="button" className="button" onClick={() => void act(api.signOutEverywhere(), away)}>
              Sign out everywhere
            </button>
          </Own>
          <Own title="Access tokens">
            <Tokens me={me} tokens={tokens} act={act} />
          </Own>
          <Own title="Delete the account">
            <p className="mb-2 text-soft">
              What you did stays in histories, comments and reviews under a pseudonym. Your address, name,
              password, sessions and tokens go. This cannot be undone.
            </p>
            <Deleting onDelete={() => void act(api.deleteMe(), away)} />
          </Own>
        </div>
      </main>
    </div>
  );
}

type Act = <T>(answer: Promise<Answer<T>>, done?: (value: T) => void) => Promise<void>;

function Own({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="mb-2 border-b border-ink pb-0.5 text-[17px] font-semibold">{title}</h2>
      {children}
    </section>
  );
}

/** Which program it is, in a few words of what it says of itself. */
function browserOf(agent: string): string {
  if (agent === '') return 'unknown program';
  const system = /\(([^;)]+)/.exec(agent)?.[1];
  const browser = /(Firefox|Edg|OPR|HeadlessChrome|Chrome|Version)\/(\d+)/.exec(agent);
  if (browser)
    return [`${browser[1] === 'Version' ? 'Safari' : browser[1]} ${browser[2]}`, system].join(', ');
  const last = agent
    .replace(/\([^)]*\)/g, '')
    .trim()
    .split(/\s+/)
    .at(-1)
    ?.replace('/', ' ');
  return [last, system].filter(Boolean).join(', ');
}

function Renaming({ me, act }: { me: Me; act: Act }) {
  const [name, setName] = useState(me.name);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        // Everything on the page that bears the name is made anew.
        void act(api.renameMe(name.trim()), () => window.location.reload());
      }}
    >
      <Field
        title="Your name"
        hint={`You sign in as ${me.email}.`}
        required
        maxLength={120}
        value={name}
        onValue={setName}
      />
      <button type="submit" className="button" disabled={name.trim() === '' || name.trim() === me.name}>
        Change the name
      </button>
    </form>
  );
}

function Password({ act }: { act: Act }) {
  const [now, setNow] = useState('');
  const [next, setNext] = useState('');
  const [done, setDone] = useState(false);
  return (
    <form
      className="mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        setDone(false);
        void act(api.changePassword(now, next), () => {
          setNow('');
          setNext('');
          setDone(true);
        });
      }}
    >
      <Field title="Password" type="password" autoComplete="current-password" value={now} onValue={setNow} />
      <Field
        title="New password"
        hint="At least 12 characters. Everywhere else you are signed out, and your access tokens end."
        type="password"
        autoComplete="new-password"
        required
        value={next}
        onValue={setNext}
      />
      <button type="submit" className="button" disabled={next === ''}>
        Change the password
      </button>
      {done && (
        <span role="status" className="ml-3">
          ✓ changed
        </span>
      )}
    </form>
  );
}

function NewWorkspace({ act, away }: { act: Act; away: () => void }) {
  const [name, setName] = useState('');
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void act(api.makeWorkspace(name.trim()), away);
      }}
    >
      <input
        aria-label="Name of a new workspace"
        placeholder="a new workspace"
        maxLength={120}
        className="min-w-0 flex-1"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <button type="submit" className="button" disabled={name.trim() === ''}>
        Make it
      </button>
    </form>
  );
}

function Tokens({ me, tokens, act }: { me: Me; tokens: readonly TokenHead[]; act: Act }) {
  const router = useRouter();
  const [name, setName] = useState('');
  const [scope, setScope] = useState<Scope>('read');
  const [days, setDays] = useState(90);
  const [made, setMade] = useState<string | null>(null);
  return (
    <>
      <p className="mb-2 text-soft">
        For build servers: a token acts as you, in {me.workspace.name || 'a workspace'}, within its scope.
      </p>
      <ul className="mb-2">
        {tokens.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1"
            data-token={one.name}
          >
            <b className="font-semibold">{one.name}</b>
            <span className="text-soft" suppressHydrationWarning>
              {one.scope}, in {one.workspace}, until {dayOf(one.expiresAt)},{' '}
              {one.usedAt === null ? 'never used' : `last used ${dayOf(one.usedAt)}`}
            </span>
            <button
              type="button"
              className="link ml-auto"
              aria-label={`Withdraw ${one.name}`}
              onClick={() => void act(api.withdrawToken(one.id))}
            >
              withdraw
            </button>
          </li>
        ))}
      </ul>
      {made !== null && (
        <p role="status" className="mb-2 border border-ink bg-sheet px-2 py-1">
          Copy it now, it is not shown again:
          <br />
          <span className="m select-all [overflow-wrap:anywhere]" data-testid="token">
            {made}
          </span>
        </p>
      )}
      <form
        className="flex flex-wrap gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void act(api.makeToken(name.trim(), scope, days), ({ token }) => {
            setMade(token);
            setName('');
            router.refresh();
          });
        }}
      >
        <input
          aria-label="What the token is for"
          placeholder="what it is for"
          maxLength={120}
          className="min-w-0 flex-1"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <select aria-label="Scope" value={scope} onChange={(event) => setScope(event.target.value as Scope)}>
          {SCOPES.filter((one) => one === 'read' || roleMay(me.role, 'edit')).map((one) => (
            <option key={one} value={one}>
              {SCOPE_WORDS[one]}
            </option>
          ))}
        </select>
        <select aria-label="Good for" value={days} onChange={(event) => setDays(Number(event.target.value))}>
          {[7, 30, 90, 366].map((one) => (
            <option key={one} value={one}>
              {one === 366 ? 'a year' : `${one} days`}
            </option>
          ))}
        </select>
        <button type="submit" className="button" disabled={name.trim() === ''}>
          Make a token
        </button>
      </form>
    </>
  );
}

function Deleting({ onDelete }: { onDelete: () => void }) {
  const [asked, setAsked] = useState(false);
  if (!asked)
    return (
      <button type="button" className="button" onClick={() => setAsked(true)}>
        Delete my account …
      </button>
    );
  return (
    <p className="flex gap-2">
      <button type="button" className="button text-err" onClick={onDelete}>
        Yes, delete it
      </button>
      <button type="button" className="button" onClick={() => setAsked(false)}>
        Keep it
      </button>
    </p>
  );
}
