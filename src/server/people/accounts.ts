import { fail, ok, type Result } from '@/core/base/result';
import { checkPassword } from '@/core/people/password';
import type { Me, Role } from '@/core/people/rights';
import { type Queryable, query, transaction } from '../db';
import { newId } from '../ids';
import { work } from '../work/pool';
import { forgetAccess } from './access-cache';
import { countAccount, countAttempt, forgiveAttempt } from './attempts';
import { knownDevice } from './devices';
import { invitationOf, invitationsFor, type OpenInvitation, takeInvitation } from './invitations';
import { hashPassword, isPassword } from './passwords';
import { asServer, type Who } from './who';
import { workspacesOf } from './workspaces';

/** Accounts. All here is done with all rights; who may ask for it is settled by the guard. */

interface Account {
  id: string;
  name: string;
  email: string | null;
  password: string | null;
}

export async function accountBy(
  column: 'id' | 'email',
  value: string,
  client?: Queryable,
): Promise<Account | undefined> {
  const text = `select id, name, email, password from people
    where ${column === 'id' ? 'id = $1' : 'lower(email) = lower($1)'} and deleted_at is null`;
  const rows = client
    ? (await client.query<Account>(text, [value])).rows
    : await asServer(() => query<Account>(text, [value]));
  return rows[0];
}

export const hasPeople = async (): Promise<boolean> =>
  (await asServer(() => query('select 1 from people where deleted_at is null limit 1'))).length > 0;

const WRONG = { place: 'sign-in', message: 'address or password is wrong' };

/**
 * Who an address and a password belong to. What is wrong of them is not told, nor by how long the answer takes. The caller has
 * counted the try on the machine's address (`countAddress`); from a browser that the owner uses tries are counted by themselves.
 */
export async function signIn(
  email: string,
  password: string,
  from: { address: string; device?: string | undefined },
): Promise<Result<{ id: string; name: string }> & { tooOften?: true }> {
  const counted = (await knownDevice(email, from.device)) ?? email;
  const free = await countAccount(counted);
  if (!free.ok) return { ...free, tooOften: true };
  const account = await accountBy('email', email);
  if (!(await isPassword(password, account?.password ?? null)) || !account) return fail(WRONG);
  await forgiveAttempt(counted, from.address);
  return ok({ id: account.id, name: account.name });
}

interface NewPerson {
  name: string;
  /** Undefined for who signs in elsewhere. */
  password?: string;
  issuer?: string;
  subject?: string;
}

const GONE = { place: 'invitation', message: 'is not good any more; ask for a new one' };
const TAKEN = { place: 'name', message: 'somebody here has that name; add something to yours' };

/** What speaks against a password: what pages check while one types, and how soon it would be guessed. */
async function strongPassword(
  password: string,
  owner: { name: string; email: string },
): Promise<Result<unknown>> {
  const good = checkPassword(password, owner);
  return good.ok ? work('judgePassword', { password, ...owner }) : good;
}

/** Makes an account by an invitation. */
export async function join(key: string, person: NewPerson & { password: string }): Promise<Result<string>> {
  const invitation = await invitationOf(key);
  if (!invitation) return fail(GONE);
  const good = await strongPassword(person.password, { name: person.name, email: invitation.email });
  if (!good.ok) return good;
  if (invitation.personId !== null) return resetPassword(invitation, invitation.personId, person.password);
  return addPerson(invitation, person);
}

/** Sets a new password by a link of whoever runs the server, and signs out everywhere. */
async function resetPassword(
  invitation: OpenInvitation,
  id: string,
  password: string,
): Promise<Result<string>> {
  const hashed = await hashPassword(password);
  const done = await asServer(() =>
    transaction(async (client): Promise<Result<string>> => {
      const { rows } = await client.query(
        'update invitations set taken_at = now() where id = $1 and taken_at is null and expires_at > now() returning id',
        [invitation.id],
      );
      if (rows.length === 0) return fail(GONE);
      await client.query('update people set password = $2 where id = $1 and deleted_at is null', [
        id,
        hashed,
      ]);
      await endAccess(client, id);
      return ok(id);
    }),
  );
  forgetAccess();
  return done;
}

/** Ends whatever lets somebody in: sessions but for one, access tokens, and browsers that are known. */
async function endAccess(client: Queryable, personId: string, butSession = ''): Promise<void> {
  await client.query('delete from sessions where person_id = $1 and id <> $2', [personId, butSession]);
  for (const table of ['tokens', 'known_devices'])
    await client.query(`delete from ${table} where person_id = $1`, [personId]);
}

async function addPerson(invitation: OpenInvitation, person: NewPerson): Promise<Result<string>> {
  const hashed = person.password === undefined ? null : await hashPassword(person.password);
  const id = newId();
  try {
    return await asServer(() =>
      transaction(async (client): Promise<Result<string>> => {
        if (await accountBy('email', invitation.email, client))
          return fail({
            place: 'invitation',
            message: 'is for an address that has an account; sign in, and open the link again',
          });
        await client.query(
          'insert into people (id, name, email, password, issuer, subject) values ($1, $2, $3, $4, $5, $6)',
          [id, person.name, invitation.email, hashed, person.issuer ?? null, person.subject ?? null],
        );
        if (!(await takeInvitation(client, invitation, id))) throw new Gone();
        return ok(id);
      }),
    );
  } catch (error) {
    if (error instanceof Gone) return fail(GONE);
    if ((error as { code?: string }).code === '23505') return fail(TAKEN);
    throw error;
  }
}

class Gone extends Error {}

/** Somebody with an account takes an invitation to another workspace; it must be for their address. */
export async function joinAs(key: string, personId: string): Promise<Result<string>> {
  const [invitation, account] = await Promise.all([invitationOf(key), accountBy('id', personId)]);
  if (!invitation || invitation.personId !== null || !account) return fail(GONE);
  if (account.email?.toLowerCase() !== invitation.email.toLowerCase())
    return fail({ place: 'invitation', message: `is for ${invitation.email}; sign in as that` });
  const taken = await asServer(() => transaction((client) => takeInvitation(client, invitation, personId)));
  forgetAccess();
  return taken ? ok(invitation.workspace) : fail(GONE);
}

/**
 * Who another service says that somebody is. The first time, the address that the service has verified must have an account or an
 * invitation here; later the service's own name for them counts.
 */
export async function personElsewhere(claims: {
  issuer: string;
  subject: string;
  email: string | undefined;
  emailVerified: boolean;
  name: string;
}): Promise<Result<{ id: string; name: string }>> {
  const { issuer, subject, email, emailVerified } = claims;
  const [known] = await asServer(() =>
    query<{ id: string; name: string }>(
      'select id, name from people where issuer = $1 and subject = $2 and deleted_at is null',
      [issuer, subject],
    ),
  );
  if (known) return ok(known);
  if (email === undefined || !emailVerified)
    return fail({ place: 'sign-in', message: 'the service did not tell a verified address' });
  const account = await accountBy('email', email);
  if (account) {
    // Until now nobody has shown that the address is theirs: whoever made the account for it loses their way in.
    await asServer(() =>
      transaction(async (client) => {
        const { rows } = await client.query(
          'update people set issuer = $2, subject = $3, password = null where id = $1 and issuer is null returning id',
          [account.id, issuer, subject],
        );
        if (rows.length === 0) return;
        await endAccess(client, account.id);
      }),
    );
    forgetAccess();
    const [tied] = await asServer(() =>
      query<{ id: string }>('select id from people where id = $1 and issuer = $2 and subject = $3', [
        account.id,
        issuer,
        subject,
      ]),
    );
    return tied
      ? ok({ id: account.id, name: account.name })
      : fail({ place: 'sign-in', message: 'that address belongs to another account of the service' });
  }
  const invitations = await invitationsFor(email);
  const [first] = invitations;
  if (!first) return fail({ place: 'sign-in', message: `${email} is not invited here` });
  const name = claims.name.trim().slice(0, 120) || email;
  let made = await addPerson(first, { name, issuer, subject });
  // Somebody else has that name: the address is told with it, which nobody else has.
  if (!made.ok && made.problems[0]?.place === 'name')
    made = await addPerson(first, { name: `${name} (${email})`, issuer, subject });
  if (!made.ok) return made;
  const { value: id } = made;
  for (const one of invitations.slice(1))
    await asServer(() => transaction((client) => takeInvitation(client, one, id)));
  const account2 = await accountBy('id', id);
  return ok({ id, name: account2?.name ?? name });
}

/** What pages are told of whoever asks; undefined without accounts or when nobody is signed in. */
export async function meOf({ person, workspace, role }: Who): Promise<Me | undefined> {
  if (!person) return undefined;
  const [account, workspaces] = await Promise.all([accountBy('id', person.id), workspacesOf(person.id)]);
  const here = workspaces.find((one) => one.id === workspace);
  return {
    id: person.id,
    name: account?.name ?? person.name,
    email: account?.email ?? '',
    workspace: { id: workspace, name: here?.name ?? '' },
    role: (role ?? 'viewer') as Role,
    workspaces,
  };
}

export async function renamePerson(id: string, name: string): Promise<Result<null>> {
  try {
    await asServer(() => query('update people set name = $2 where id = $1', [id, name]));
  } catch (error) {
    if ((error as { code?: string }).code === '23505') return fail(TAKEN);
    throw error;
  }
  forgetAccess();
  return ok(null);
}

/** Sets another password; who has one must know it. What let them in elsewhere ends with it: other sessions, and access tokens. */
export async function changePassword(
  id: string,
  { now, next }: { now: string; next: string },
  from: { address: string; session: string },
): Promise<Result<null>> {
  const free = await countAttempt(`password ${id}`, from.address);
  if (!free.ok) return free;
  const account = await accountBy('id', id);
  if (!account) return fail({ place: 'account', message: 'is not there' });
  if (account.password !== null && !(await isPassword(now, account.password)))
    return fail({ place: 'now', message: 'is not the password' });
  const good = await strongPassword(next, { name: account.name, email: account.email ?? '' });
  if (!good.ok) return fail({ place: 'next', message: good.problems[0]?.message ?? '' });
  const hashed = await hashPassword(next);
  await asServer(() =>
    transaction(async (client) => {
      await client.query('update people set password = $2 where id = $1', [id, hashed]);
      await endAccess(client, id, from.session);
    }),
  );
  forgetAccess();
  await forgiveAttempt(`password ${id}`, from.address);
  return ok(null);
}
