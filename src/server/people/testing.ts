import type { Role, Scope } from '@/core/people/rights';
import { query } from '../db';
import { newId } from '../ids';
import { digestOf, newSecret } from './secrets';
import { asServer, type Who } from './who';

/** People for tests, straight into the database; not part of the product. */

export async function newWorkspace(name = 'Orchard'): Promise<string> {
  const id = newId();
  await asServer(() => query('insert into workspaces (id, name) values ($1, $2)', [id, `${name} ${id}`]));
  return id;
}

export interface TestPerson {
  id: string;
  name: string;
  email: string;
}

export async function newPerson(name = 'Somebody'): Promise<TestPerson> {
  const id = newId();
  const person = { id, name: `${name} ${id}`, email: `${id}@guard.example` };
  await asServer(() =>
    query('insert into people (id, name, email) values ($1, $2, $3)', [id, person.name, person.email]),
  );
  return person;
}

export const addMember = (workspace: string, person: string, role: Role) =>
  asServer(() =>
    query('insert into members (workspace_id, person_id, role) values ($1, $2, $3)', [
      workspace,
      person,
      role,
    ]),
  );

/** What the guard would make of somebody with a role. */
export const asMember = (person: TestPerson, workspace: string, role?: Role): Who => ({
  kind: 'person',
  workspace,
  principals: [`p:${person.id}`],
  person: { id: person.id, name: person.name },
  ...(role ? { role } : {}),
  via: 'session',
});

export async function newToken(
  person: TestPerson,
  workspace: string,
  scope: Scope,
  days = 1,
): Promise<string> {
  const id = newId();
  await asServer(() =>
    query(
      `insert into tokens (id, digest, person_id, workspace_id, name, scope, expires_at)
       values ($1, $2, $3, $4, 'test', $5, now() + make_interval(days => $6))`,
      [id, digestOf(newSecret()), person.id, workspace, scope, days],
    ),
  );
  return id;
}
