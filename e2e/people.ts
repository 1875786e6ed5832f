import pg from 'pg';
import { newId } from '../src/core/base/text/new-id';
import type { Role, Scope } from '../src/core/people/rights';
import { digestOf, newSecret } from '../src/server/people/secrets';
import { exampleText } from './fixtures';
import { PEOPLE } from './people-server';

/** People on the server with accounts, straight into its database, and requests as them. */

let pool: pg.Pool | undefined;
export const db = async <Row extends pg.QueryResultRow>(
  text: string,
  values: unknown[] = [],
): Promise<Row[]> => {
  pool ??= new pg.Pool({ connectionString: PEOPLE.database, max: 3 });
  return (await pool.query<Row>(text, values)).rows;
};
export async function closeDb(): Promise<void> {
  await pool?.end();
  pool = undefined;
}

/** A workspace with the parts of the first, as a new one has them. */
export async function newWorkspace(): Promise<string> {
  const id = newId();
  await db('insert into workspaces (id, name) values ($1, $2)', [id, `Orchard ${id}`]);
  await db(
    `insert into parts (workspace_id, id, name, maker, summary, revision, fingerprint, facts, shipped)
     select $1, id, name, maker, summary, revision, fingerprint, facts, shipped from parts where workspace_id = 'main'`,
    [id],
  );
  await db(
    `insert into part_versions (workspace_id, part_id, fingerprint, description)
     select $1, part_id, fingerprint, description from part_versions where workspace_id = 'main'`,
    [id],
  );
  return id;
}

export interface Somebody {
  id: string;
  name: string;
  email: string;
  headers: Record<string, string>;
  /** The session's secret. */
  session: string;
}

export async function newSomebody(workspace?: string, role?: Role, name = 'Somebody'): Promise<Somebody> {
  const id = newId();
  const session = newSecret();
  const person = { id, name: `${name} ${id}`, email: `${id.toLowerCase()}@guard.example` };
  await db('insert into people (id, name, email) values ($1, $2, $3)', [id, person.name, person.email]);
  if (workspace && role)
    await db('insert into members (workspace_id, person_id, role) values ($1, $2, $3)', [
      workspace,
      id,
      role,
    ]);
  await db(
    `insert into sessions (digest, id, person_id, workspace_id, agent, expires_at)
     values ($1, $2, $3, $4, 'test', now() + interval '1 day')`,
    [digestOf(session), newId(), id, workspace ?? null],
  );
  return { ...person, session, headers: { cookie: `mavrek-session=${session}` } };
}

export async function tokenOf(
  one: Somebody,
  workspace: string,
  scope: Scope,
  days = 1,
): Promise<Record<string, string>> {
  const token = `mvk_${newSecret()}`;
  await db(
    `insert into tokens (id, digest, person_id, workspace_id, name, scope, expires_at)
     values ($1, $2, $3, $4, 'test', $5, now() + make_interval(days => $6))`,
    [newId(), digestOf(token), one.id, workspace, scope, days],
  );
  return { authorization: `Bearer ${token}` };
}

export interface Answer {
  status: number;
  place: string;
  body: Record<string, unknown>;
  headers: Headers;
}

export async function ask(name: string, headers: Record<string, string>, body?: unknown): Promise<Answer> {
  const [method = '', path = ''] = name.split(' ');
  const answer = await fetch(`${PEOPLE.url}${path}`, {
    method,
    redirect: 'manual',
    headers: { ...headers, ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  // Streams do not end.
  const stream = answer.headers.get('content-type')?.includes('event-stream');
  if (stream) await answer.body?.cancel();
  const text = stream ? '' : await answer.text();
  let read: Record<string, unknown> = {};
  try {
    read = JSON.parse(text) as Record<string, unknown>;
  } catch {
    // A page, a file, nothing.
  }
  const place = (read.problems as { place: string }[] | undefined)?.[0]?.place ?? '';
  return { status: answer.status, place, body: read, headers: answer.headers };
}

/** A plan of the demo in a workspace, made by somebody who may. */
export async function planOf(editor: Somebody): Promise<string> {
  const { body } = await ask('POST /api/plans/import', editor.headers, {
    fileName: 'frost-guard.plan.json',
    text: exampleText('frost-guard.plan.json'),
  });
  return String(body.id);
}
