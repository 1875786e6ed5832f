'use client';

import { useState } from 'react';
import { checkPassword } from '@/core/people/password';
import { ROLE_WORDS, type Role } from '@/core/people/rights';
import { api } from '../client/api';
import { Field, FormPage } from './field';

export interface ShownInvitation {
  workspace: string;
  email: string;
  role: Role;
  /** It lets whoever has the account set a new password. */
  resets: boolean;
  /** The address has an account here. */
  known: boolean;
}

interface Props {
  secret: string;
  invitation: ShownInvitation | undefined;
  /** The address that is signed in. */
  signedIn: string | undefined;
}

/** Where an invitation leads: to a new account, to another workspace of the account one has, or to a new password. */
export function JoinPage({ secret, invitation, signedIn }: Props) {
  if (!invitation)
    return (
      <FormPage title="This link is not good any more">
        <p>It was used, withdrawn, or is too old. Ask whoever sent it for a new one.</p>
        <p className="mt-4">
          <a className="link" href="/sign-in">
            Sign in
          </a>
        </p>
      </FormPage>
    );
  const { workspace, email, role, resets, known } = invitation;
  return (
    <FormPage title={resets ? 'Set a new password' : `Join ${workspace}`}>
      {!resets && (
        <p className="mb-4">
          You are invited as <b className="font-semibold">{role}</b>: who {ROLE_WORDS[role]}.
        </p>
      )}
      {known && !resets ? (
        <HasAccount secret={secret} email={email} signedIn={signedIn} />
      ) : (
        <NewAccount secret={secret} email={email} resets={resets} />
      )}
    </FormPage>
  );
}

function HasAccount({
  secret,
  email,
  signedIn,
}: {
  secret: string;
  email: string;
  signedIn: string | undefined;
}) {
  const [said, setSaid] = useState<string | null>(null);
  async function take() {
    const answer = await api.joinHere(secret);
    if (answer.ok) window.location.assign('/');
    else setSaid(answer.problems[0]?.message ?? 'it did not work');
  }
  if (signedIn?.toLowerCase() !== email.toLowerCase())
    return (
      <p>
        {email} has an account here.{' '}
        <a className="link" href={`/sign-in?next=${encodeURIComponent(`/join/${secret}`)}`}>
          Sign in as {email}
        </a>{' '}
        to join.
      </p>
    );
  return (
    <>
      <button type="button" className="button button-strong" onClick={() => void take()}>
        Join as {email}
      </button>
      {said && (
        <p role="alert" className="mt-2 text-err">
          {said}
        </p>
      )}
    </>
  );
}

function NewAccount({ secret, email, resets }: { secret: string; email: string; resets: boolean }) {
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  async function join() {
    const good = checkPassword(password, { name: resets ? email : name, email });
    if (!good.ok) {
      setSaid(`The password ${good.problems[0]?.message}.`);
      return;
    }
    setBusy(true);
    const answer = await api.join(secret, resets ? email : name.trim(), password);
    if (answer.ok) window.location.assign('/');
    else {
      setBusy(false);
      setSaid(answer.problems.map(({ place, message }) => `The ${place} ${message}.`).join(' '));
    }
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void join();
      }}
    >
      <Field
        title="E-mail address"
        type="email"
        autoComplete="username"
        value={email}
        onValue={() => undefined}
        readOnly
      />
      {!resets && (
        <Field
          title="Your name"
          hint="With it you sign comments, revisions and reviews."
          autoComplete="name"
          required
          maxLength={120}
          value={name}
          onValue={setName}
        />
      )}
      <Field
        title="Password"
        hint="At least 12 characters; a sentence is good."
        type="password"
        autoComplete="new-password"
        required
        value={password}
        onValue={setPassword}
      />
      {said && (
        <p role="alert" className="mb-3 text-err">
          {said}
        </p>
      )}
      <button type="submit" className="button button-strong" disabled={busy}>
        {resets ? 'Set the password' : 'Make the account'}
      </button>
    </form>
  );
}
