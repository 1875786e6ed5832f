'use client';

import { useState } from 'react';
import { ownPage } from '@/core/people/own-page';
import { api } from '../client/api';
import { Field, FormPage } from './field';

interface Props {
  /** The page that was asked for. */
  next: string;
  /** What the service is called that one can sign in at instead. */
  elsewhere: string | undefined;
  /** Why signing in there did not work. */
  why: string | undefined;
}

export function SignInPage({ next, elsewhere, why }: Props) {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [said, setSaid] = useState(why === undefined ? null : `Signing in ${why}.`);
  const [busy, setBusy] = useState(false);

  async function signIn() {
    setBusy(true);
    const answer = await api.signIn(email.trim(), password);
    // A page of its own: everything on it is made for whoever signed in.
    if (answer.ok) window.location.assign(ownPage(next));
    else {
      setBusy(false);
      const [problem] = answer.problems;
      setSaid(
        answer.status === 200
          ? 'The address or the password is wrong.'
          : `Signing in ${problem?.message ?? 'did not work'}.`,
      );
    }
  }

  return (
    <FormPage title="Sign in">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void signIn();
        }}
      >
        <Field
          title="E-mail address"
          type="email"
          autoComplete="username"
          required
          maxLength={254}
          value={email}
          onValue={setEmail}
        />
        <Field
          title="Password"
          type="password"
          autoComplete="current-password"
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
          Sign in
        </button>
        {elsewhere !== undefined && (
          <a className="link ml-4" href={`/api/sign-in/elsewhere?next=${encodeURIComponent(next)}`}>
            Sign in with {elsewhere}
          </a>
        )}
      </form>
      <p className="mt-6 text-soft">
        Accounts are made by invitation: an owner of your workspace sends you a link. Whoever runs the server
        can make a link that sets a new password.
      </p>
    </FormPage>
  );
}
