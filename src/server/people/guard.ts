import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Problem } from '@/core/base/problems';
import { type Right, type Role, roleMay } from '@/core/people/rights';
import { log } from '../log';
import { type Asked, asked, ofAccounts } from './access';
import { remembered } from './access-cache';
import { note } from './audit';
import { sessionIn } from './cookie';
import { digestOf } from './secrets';
import { enterWorkspace, type OpenSession, sessionOf } from './sessions';
import { authSettings } from './settings';
import { type OpenToken, tokenOf } from './tokens';
import { asLocal, authOn, NOBODY, runAs, type Who } from './who';
import { workspaceOfPlan } from './workspaces';

/**
 * The one place in which is settled who asks, and whether they may. Everything behind it does its work as whoever this says, and the
 * database, as a second line, holds their statements to the same rights (`db/rights.sql`).
 */

/** Who it is, or why not. */
type Settled = { who: Who } | { status: 401 | 403 | 404; problem: Problem } | { to: string };

/** Settles who asks, then does `work` as them; what they may not is answered here. */
export async function guarded(
  request: IncomingMessage,
  response: ServerResponse,
  work: () => void | Promise<void>,
): Promise<void> {
  const path = (request.url ?? '/').split('?')[0] ?? '/';
  if (!authOn()) {
    if (ofAccounts(path)) {
      const message = 'there are none on this server; it was started without MAVREK_AUTH=on';
      answer(response, 404, { place: 'accounts', message });
      return;
    }
    return asLocal(work);
  }
  const what = asked(request.method ?? 'GET', path);
  if (!what.known && !['GET', 'HEAD'].includes(request.method ?? '')) {
    answer(response, 404, { place: 'address', message: 'is not there' });
    return;
  }
  const settled = await settle(request, what);
  if ('who' in settled) {
    const { who } = settled;
    noteWhenDone(response, who, request.method ?? 'GET', what);
    return runAs(who, work);
  }
  if (response.headersSent) return;
  if ('to' in settled) {
    response.writeHead(303, { location: settled.to, 'cache-control': 'no-store' });
    response.end();
    return;
  }
  answer(response, settled.status, settled.problem);
}

function answer(response: ServerResponse, status: number, problem: Problem): void {
  // The gate may have answered meanwhile, when what came of the body was too much.
  if (response.headersSent) return;
  const body = JSON.stringify({ problems: [problem] });
  response.writeHead(status, {
    'content-type': 'application/json',
    'content-length': Buffer.byteLength(body),
    'cache-control': 'no-store',
    ...(status === 401 ? { 'www-authenticate': 'Bearer realm="mavrek"' } : {}),
  });
  response.end(body);
}

async function settle(request: IncomingMessage, what: Asked): Promise<Settled> {
  const known = await identify(request);
  const nobody: Who = { ...NOBODY, address: addressOf(request), noted: {} };
  if (what.need === 'public') return { who: known ? asPerson(known, undefined, request) : nobody };
  if (!known) return what.page ? { to: signInFor(request) } : { status: 401, problem: SIGN_IN };
  const plan = /^(\w+ )?\/(api\/)?plans\/\{id\}/.test(what.name) ? (what.params.id ?? '') : undefined;
  const workspace =
    plan === undefined
      ? homeOf(known, request)
      : await remembered(`plan ${plan}`, () => workspaceOfPlan(plan));
  const who = asPerson(known, workspace, request);
  if (what.need === 'signed-in') return { who };
  if (what.need === 'session') return known.kind === 'session' ? { who } : { status: 403, problem: BY_TOKEN };
  if (!who.role) {
    if (plan === undefined) return what.page ? { to: '/account' } : { status: 403, problem: NOWHERE };
    // That a plan of others is there is told to nobody. Its page says the same as for one that never was.
    return what.page ? { who } : { status: 404, problem: { place: 'plan', message: 'is not there' } };
  }
  if (!roleMay(who.role, what.need, who.scope)) {
    note(who, { action: what.name, target: targetOf(what), status: 403 });
    return { status: 403, problem: refusal(who, what.need) };
  }
  // Pages of no plan show the workspace of the plan that was opened last.
  if (
    what.page &&
    known.kind === 'session' &&
    workspace !== undefined &&
    known.of.workspace !== workspace &&
    !isPrefetch(request)
  )
    await enterWorkspace(known.of.id, workspace);
  return { who };
}

const isPrefetch = (request: IncomingMessage): boolean =>
  request.headers['next-router-prefetch'] !== undefined || request.headers.purpose === 'prefetch';

const SIGN_IN: Problem = { place: 'sign-in', message: 'is needed: sign in, or send an access token' };
const BY_TOKEN: Problem = { place: 'rights', message: 'this is not done by an access token; sign in' };
const NOWHERE: Problem = { place: 'rights', message: 'you are in no workspace; ask to be invited to one' };

const refusal = ({ role, scope }: Who, right: Right): Problem => ({
  place: 'rights',
  message:
    scope !== undefined && role !== undefined && roleMay(role, right)
      ? `this access token is for scope "${scope}" only`
      : `a${/^[eo]/.test(role ?? '') ? 'n' : ''} ${role} may not do this; an owner of the workspace can change that`,
});

type Known =
  | { kind: 'session'; of: OpenSession; digest: string }
  | { kind: 'token'; of: OpenToken; digest: string };

async function identify(request: IncomingMessage): Promise<Known | undefined> {
  const bearer = /^Bearer\s+(\S{1,200})$/i.exec(request.headers.authorization ?? '')?.[1];
  if (bearer !== undefined) return knownToken(digestOf(bearer));
  // A header that says something else is no reason to take the cookie in its place.
  if (request.headers.authorization !== undefined) return undefined;
  const secret = sessionIn(request.headers.cookie);
  return secret === undefined ? undefined : knownSession(digestOf(secret));
}

async function knownToken(digest: string): Promise<Known | undefined> {
  const of = await remembered(`token ${digest}`, () => tokenOf(digest));
  return of && { kind: 'token', of, digest };
}

async function knownSession(digest: string): Promise<Known | undefined> {
  const of = await remembered(`session ${digest}`, () => sessionOf(digest));
  return of && { kind: 'session', of, digest };
}

/** The workspace of a request that is about no plan: the token's, the one that a page names, or the one entered last. */
function homeOf(known: Known, request: IncomingMessage): string | undefined {
  if (known.kind === 'token') return known.of.workspace;
  const { roles, workspace } = known.of;
  const named = request.headers['x-mavrek-workspace'];
  if (typeof named === 'string') return named;
  return workspace !== null && roles[workspace] ? workspace : Object.keys(roles).sort()[0];
}

function roleIn(known: Known, workspace: string | undefined): Role | undefined {
  if (workspace === undefined) return undefined;
  if (known.kind === 'token') return known.of.workspace === workspace ? known.of.role : undefined;
  return Object.hasOwn(known.of.roles, workspace) ? (known.of.roles[workspace] as Role) : undefined;
}

function asPerson(known: Known, workspace: string | undefined, request: IncomingMessage): Who {
  const role = roleIn(known, workspace);
  const again = async (): Promise<boolean> => {
    const now = known.kind === 'session' ? await knownSession(known.digest) : await knownToken(known.digest);
    return now !== undefined && (workspace === undefined || roleIn(now, workspace) !== undefined);
  };
  return {
    kind: 'person',
    // Where they are nobody, they are in no workspace: nothing is found there.
    workspace: role ? (workspace as string) : '',
    principals: [known.kind === 'session' ? `p:${known.of.personId}` : `t:${known.of.id}`],
    person: {
      id: known.of.personId,
      name: known.kind === 'session' ? known.of.name : known.of.person,
    },
    ...(role ? { role } : {}),
    ...(known.kind === 'token' ? { scope: known.of.scope } : { session: known.of.id }),
    via: known.kind === 'session' ? 'session' : `token ${known.of.name}`,
    address: addressOf(request),
    stillHere: again,
    noted: {},
  };
}

/** From where it is asked: for limits on trying. A proxy of one's own says it in its last word. */
function addressOf(request: IncomingMessage): string {
  const forwarded = request.headers['x-forwarded-for'];
  const last =
    authSettings().proxied && typeof forwarded === 'string' ? forwarded.split(',').at(-1)?.trim() : undefined;
  return (last || request.socket.remoteAddress) ?? '';
}

/** The sign-in page, which leads back; only to a page of our own. */
const signInFor = (request: IncomingMessage): string => {
  const url = request.url ?? '/';
  const rsc = url.replace(/([?&])_rsc=[^&]*&?/, '$1').replace(/[?&]$/, '');
  return rsc === '/' ? '/sign-in' : `/sign-in?next=${encodeURIComponent(rsc)}`;
};

const targetOf = ({ params }: Asked): string => Object.values(params).join(' ');

/** What is in a history of its own, or of no consequence. */
const UNNOTED = /\/(edits|presence|check-code)$|^POST \/api\/(files|sign-in)$|^PUT \/api\/mappings$/;

/** Notes what was done, once it was answered. What only looks is not noted. */
function noteWhenDone(response: ServerResponse, who: Who, method: string, what: Asked): void {
  if (method === 'GET' || method === 'HEAD' || UNNOTED.test(what.name)) return;
  response.once('close', () => {
    const { statusCode: status } = response;
    if (status >= 400 && status !== 403) return;
    try {
      note(
        {
          ...who,
          workspace: who.noted?.workspace ?? who.workspace,
          person: who.noted?.person ?? who.person,
          via: who.noted?.via ?? who.via,
        },
        { action: what.name, target: who.noted?.target ?? targetOf(what), status },
      );
    } catch (error) {
      log.error({ err: (error as Error).message }, 'the audit log was not written');
    }
  });
}
