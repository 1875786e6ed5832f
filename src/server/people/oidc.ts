import * as client from 'openid-client';
import { fail, ok, type Result } from '@/core/base/result';
import { query } from '../db';
import { log } from '../log';
import { personElsewhere } from './accounts';
import { digestOf } from './secrets';
import { authSettings } from './settings';
import { asServer } from './who';

/** Signing in by OpenID Connect: authorization code with PKCE, state and nonce, each good once and for ten minutes. */

const shared = globalThis as typeof globalThis & { mavrekOidc?: Promise<client.Configuration> };

async function provider(): Promise<client.Configuration> {
  const { oidc } = authSettings();
  if (!oidc) throw new Error('no other service is set up');
  // What the service says of itself is asked for once; after a failure again.
  shared.mavrekOidc ??= client
    .discovery(oidc.issuer, oidc.client, oidc.secret, undefined, {
      timeout: 10,
      // Only a service on this very machine may speak plain HTTP; `authSettings` refuses others.
      execute: [
        // The signature too, not only that it came from the service's own address.
        client.enableNonRepudiationChecks,
        ...(oidc.issuer.protocol === 'http:' ? [client.allowInsecureRequests] : []),
      ],
    })
    .catch((error: unknown) => {
      shared.mavrekOidc = undefined;
      throw error;
    });
  return shared.mavrekOidc;
}

const BACK = '/api/sign-in/elsewhere/back';

/** Where somebody is sent to sign in, and the state that their browser keeps meanwhile. */
export async function beginElsewhere(
  own: string,
  next: string,
): Promise<Result<{ to: string; state: string }>> {
  const config = await provider().catch((error: Error) => {
    log.warn({ err: error.message }, 'the service that people sign in at does not answer');
    return undefined;
  });
  if (!config)
    return fail({ place: 'sign-in', message: 'is not possible there now: the service does not answer' });
  const verifier = client.randomPKCECodeVerifier();
  const state = client.randomState();
  const nonce = client.randomNonce();
  await asServer(() => query('delete from sign_ins where expires_at < now()'));
  await asServer(() =>
    query(
      `insert into sign_ins (state, verifier, nonce, next, expires_at) values ($1, $2, $3, $4, now() + interval '10 minutes')`,
      [digestOf(state), verifier, nonce, next],
    ),
  );
  const to = client.buildAuthorizationUrl(config, {
    redirect_uri: `${own}${BACK}`,
    scope: 'openid email profile',
    code_challenge: await client.calculatePKCECodeChallenge(verifier),
    code_challenge_method: 'S256',
    state,
    nonce,
  });
  return ok({ to: to.href, state });
}

/**
 * Who comes back. `kept` is the state that the browser kept: an answer that was begun in another browser is none of its own.
 * What the service answered is checked by the client library: issuer, audience, signature, times, nonce.
 */
export async function endElsewhere(
  own: string,
  search: string,
  kept: string | undefined,
): Promise<Result<{ id: string; name: string; next: string }>> {
  const state = new URLSearchParams(search).get('state') ?? '';
  if (state === '' || kept !== state)
    return fail({ place: 'sign-in', message: 'was not begun in this browser; begin again' });
  const [begun] = await asServer(() =>
    query<{ verifier: string; nonce: string; next: string }>(
      'delete from sign_ins where state = $1 and expires_at > now() returning verifier, nonce, next',
      [digestOf(state)],
    ),
  );
  if (!begun) return fail({ place: 'sign-in', message: 'took too long; begin again' });
  const config = await provider();
  try {
    const tokens = await client.authorizationCodeGrant(config, new URL(`${own}${BACK}${search}`), {
      pkceCodeVerifier: begun.verifier,
      expectedState: state,
      expectedNonce: begun.nonce,
      idTokenExpected: true,
    });
    let claims: Record<string, unknown> = { ...tokens.claims() };
    const subject = String(claims.sub);
    if (claims.email === undefined && config.serverMetadata().userinfo_endpoint)
      claims = { ...(await client.fetchUserInfo(config, tokens.access_token, subject)), ...claims };
    const person = await personElsewhere({
      issuer: config.serverMetadata().issuer,
      subject,
      email: typeof claims.email === 'string' ? claims.email : undefined,
      emailVerified: claims.email_verified === true,
      name: typeof claims.name === 'string' ? claims.name : '',
    });
    return person.ok ? ok({ ...person.value, next: begun.next }) : person;
  } catch (error) {
    const { code, message } = error as { code?: string; message: string };
    log.warn({ code, err: message }, 'signing in elsewhere failed');
    return fail({ place: 'sign-in', message: 'was not confirmed by the service; begin again' });
  }
}
