import type { Right } from '@/core/people/rights';

/**
 * What each request needs, in one table; what is not in it is for nobody. `public`: anybody · `signed-in`: anybody with an account,
 * or a token · `session`: with an account, and not by a token · a right: whoever has it in the workspace that the request is about.
 */
export type Need = 'public' | 'signed-in' | 'session' | Right;

export const API_ACCESS = {
  'GET /api/plans': 'read',
  'POST /api/plans': 'edit',
  'POST /api/plans/import': 'edit',
  'GET /api/plans/{id}': 'read',
  'DELETE /api/plans/{id}': 'edit',
  'POST /api/plans/{id}/restore': 'edit',
  'POST /api/plans/{id}/duplicate': 'edit',
  'GET /api/plans/{id}/file': 'read',
  'GET /api/plans/{id}/namesakes': 'read',
  'POST /api/plans/{id}/edits': 'edit',
  'GET /api/plans/{id}/events': 'read',
  'POST /api/plans/{id}/presence': 'read',
  'GET /api/plans/{id}/check': 'read',
  'GET /api/plans/{id}/code': 'read',
  'POST /api/plans/{id}/place': 'edit',
  'GET /api/plans/{id}/schedule': 'read',
  'POST /api/plans/{id}/check-code': 'read',
  'GET /api/plans/{id}/exports': 'read',
  'POST /api/plans/{id}/exports': 'edit',
  'GET /api/plans/{id}/exports/history': 'read',
  'GET /api/plans/{id}/exports/{number}': 'read',
  'GET /api/compare': 'read',
  'GET /api/plans/{id}/history': 'read',
  'GET /api/plans/{id}/at/{seq}': 'read',
  'POST /api/plans/{id}/branch': 'edit',
  'GET /api/plans/{id}/revisions': 'read',
  'POST /api/plans/{id}/revisions': 'edit',
  'GET /api/plans/{id}/revisions/{name}': 'read',
  'GET /api/plans/{id}/comments': 'read',
  'POST /api/plans/{id}/comments': 'comment',
  'PATCH /api/plans/{id}/comments/{comment}': 'comment',
  'GET /api/plans/{id}/verdicts': 'read',
  'POST /api/plans/{id}/verdicts': 'review',
  'GET /api/plans/{id}/sign-off': 'read',
  'GET /api/plans/{id}/variants': 'read',
  'PUT /api/plans/{id}/variants': 'edit',
  'POST /api/plans/{id}/variants/take': 'edit',
  'GET /api/profiles': 'read',
  'POST /api/profiles': 'edit',
  'DELETE /api/profiles/{id}': 'edit',
  'GET /api/devices': 'read',
  'POST /api/devices': 'edit',
  'GET /api/devices/{id}': 'read',
  'DELETE /api/devices/{id}': 'edit',
  'PUT /api/devices/{id}/corrections': 'edit',
  'GET /api/devices/{id}/export': 'read',
  'GET /api/documents/{sha256}': 'read',
  'PUT /api/documents/{sha256}': 'edit',
  'POST /api/files': 'edit',
  'GET /api/mappings': 'read',
  'PUT /api/mappings': 'edit',
  'POST /api/sign-in': 'public',
  'GET /api/sign-in/elsewhere': 'public',
  'GET /api/sign-in/elsewhere/back': 'public',
  'POST /api/join': 'public',
  'POST /api/join/here': 'session',
  'POST /api/sign-out': 'session',
  'GET /api/account': 'signed-in',
  'PATCH /api/account': 'session',
  'DELETE /api/account': 'session',
  'PUT /api/account/password': 'session',
  'GET /api/account/sessions': 'session',
  'DELETE /api/account/sessions': 'session',
  'DELETE /api/account/sessions/{session}': 'session',
  'GET /api/account/tokens': 'session',
  'POST /api/account/tokens': 'session',
  'DELETE /api/account/tokens/{token}': 'session',
  'PUT /api/account/workspace': 'session',
  'POST /api/workspaces': 'session',
  'PATCH /api/workspace': 'manage',
  'GET /api/members': 'read',
  'PATCH /api/members/{person}': 'manage',
  'DELETE /api/members/{person}': 'manage',
  'DELETE /api/people/{person}': 'manage',
  'GET /api/invitations': 'manage',
  'POST /api/invitations': 'manage',
  'DELETE /api/invitations/{invitation}': 'manage',
  'GET /api/audit': 'manage',
  'GET /api/health': 'public',
  'GET /api/live': 'public',
  'GET /api/openapi.json': 'public',
} as const satisfies Readonly<Record<string, Need>>;

export type Route = keyof typeof API_ACCESS;

/** Answered by the server around the application. */
const OTHER_ACCESS: Readonly<Record<string, Need>> = { 'GET /api/metrics': 'signed-in' };

/** Pages are all asked for by GET. */
export const PAGE_ACCESS: Readonly<Record<string, Need>> = {
  '/': 'read',
  '/plans/{id}': 'read',
  '/plans/{id}/at/{seq}': 'read',
  '/plans/{id}/compare': 'read',
  '/plans/{id}/history': 'read',
  '/plans/{id}/review': 'read',
  '/plans/{id}/schedule': 'read',
  '/plans/{id}/variants': 'read',
  '/parts': 'read',
  '/parts/import': 'read',
  '/parts/{id}': 'read',
  '/people': 'read',
  '/account': 'session',
  '/sign-in': 'public',
  '/join/{key}': 'public',
};

/** What every page is made of, the same for all: scripts, styles, fonts, icons. */
const MADE_OF = /^\/(_next\/static\/|pdf\/|theme\.js$|icon\.svg$|favicon\.ico$)/;

/** Routes that there is nothing behind on a server without accounts. */
export const ofAccounts = (path: string): boolean =>
  /^\/api\/(sign-in|sign-out|join|account|workspaces?|members|people|invitations|audit)(\/|$)/.test(path);

interface Entry {
  name: string;
  method: string;
  segments: readonly string[];
  need: Need;
  page: boolean;
}

const entry = (method: string, path: string, need: Need, page: boolean): Entry => ({
  name: page ? path : `${method} ${path}`,
  method,
  segments: path.split('/'),
  need,
  page,
});
const ENTRIES: readonly Entry[] = [
  ...Object.entries({ ...API_ACCESS, ...OTHER_ACCESS }).map(([name, need]) => {
    const [method = '', path = ''] = name.split(' ');
    return entry(method, path, need, false);
  }),
  ...Object.entries(PAGE_ACCESS).map(([path, need]) => entry('GET', path, need, true)),
];

export interface Asked {
  /** As in the tables; the path itself where it is in none. */
  name: string;
  need: Need;
  page: boolean;
  params: Readonly<Record<string, string>>;
  /** It is in a table. */
  known: boolean;
}

/**
 * What a request asks for. A path that is in no table needs an account, so that not even what is missing is told to anybody; a
 * method that is not answered there, likewise.
 */
export function asked(method: string, path: string): Asked {
  const read = method === 'HEAD' ? 'GET' : method;
  if (read === 'GET' && MADE_OF.test(path))
    return { name: 'asset', need: 'public', page: true, params: {}, known: true };
  const segments = path
    .replace(/(?<=.)\/$/, '')
    .split('/')
    .map(decodeURIComponent);
  let best: Asked | undefined;
  for (const one of ENTRIES) {
    if (one.method !== read || one.segments.length !== segments.length) continue;
    const params: Record<string, string> = {};
    const fits = one.segments.every((segment, at) => {
      const here = segments[at] as string;
      const name = /^\{(\w+)\}$/.exec(segment)?.[1];
      if (name === undefined) return segment === here;
      params[name] = here;
      return here !== '';
    });
    // A fixed word counts before a name: /parts/import is no part.
    if (fits && (!best || Object.keys(params).length < Object.keys(best.params).length))
      best = { name: one.name, need: one.need, page: one.page, params, known: true };
  }
  return (
    best ?? {
      name: path.slice(0, 200),
      need: 'signed-in',
      page: !path.startsWith('/api/'),
      params: {},
      known: false,
    }
  );
}
