import { extendJsonShape, newJsonShape } from '@/core/base/json/json-shape';
import { grouped, LIMITS, type Limit, tooLarge } from '@/core/base/limits';
import { asked, type Route } from '../people/access';

/**
 * What the body of each request may be, in one table, by what the request is for: bytes, and of JSON how many values and how deep.
 * The gate holds every body to it while it arrives, before anybody looks into it. A route that takes a body and is not in the table
 * does not compile; an address that is no route takes as good as none.
 */
export interface BodyRule {
  bytes: Limit;
  /** Undefined: the body is not JSON. */
  json?: { values: number; depth: number };
}

const RULES = {
  none: { bytes: 'noBodyBytes', json: { values: 10, depth: 3 } },
  credentials: { bytes: 'credentialBytes', json: { values: 10, depth: 2 } },
  form: { bytes: 'formBytes', json: { values: 300, depth: 6 } },
  list: { bytes: 'listBytes', json: { values: 3_000, depth: 6 } },
  corrections: { bytes: 'requestBytes', json: { values: 30_000, depth: 8 } },
  edit: { bytes: 'requestBytes', json: { values: 250_000, depth: 64 } },
  // A file is one text inside of the form.
  file: { bytes: 'requestBytes', json: { values: 20, depth: 2 } },
  partFile: { bytes: 'partRequestBytes', json: { values: 20, depth: 2 } },
  document: { bytes: 'documentBytes' },
} as const satisfies Record<string, BodyRule>;

type WithBody = Extract<Route, `${'POST' | 'PUT' | 'PATCH'} ${string}`>;

const BODIES: Readonly<Record<WithBody, keyof typeof RULES>> = {
  'POST /api/plans': 'form',
  'POST /api/plans/import': 'file',
  'POST /api/plans/{id}/restore': 'none',
  'POST /api/plans/{id}/duplicate': 'none',
  'POST /api/plans/{id}/edits': 'edit',
  'POST /api/plans/{id}/presence': 'form',
  'POST /api/plans/{id}/place': 'form',
  'POST /api/plans/{id}/check-code': 'form',
  'POST /api/plans/{id}/exports': 'form',
  'POST /api/plans/{id}/branch': 'form',
  'POST /api/plans/{id}/revisions': 'form',
  'POST /api/plans/{id}/comments': 'form',
  'PATCH /api/plans/{id}/comments/{comment}': 'form',
  'POST /api/plans/{id}/verdicts': 'form',
  'PUT /api/plans/{id}/variants': 'list',
  'POST /api/plans/{id}/variants/take': 'form',
  'POST /api/profiles': 'file',
  'POST /api/devices': 'partFile',
  'PUT /api/devices/{id}/corrections': 'corrections',
  'PUT /api/documents/{sha256}': 'document',
  'POST /api/files': 'partFile',
  'PUT /api/mappings': 'list',
  'POST /api/sign-in': 'credentials',
  'POST /api/join': 'credentials',
  'POST /api/join/here': 'credentials',
  'POST /api/sign-out': 'none',
  'PATCH /api/account': 'form',
  'PUT /api/account/password': 'credentials',
  'POST /api/account/tokens': 'form',
  'PUT /api/account/workspace': 'form',
  'POST /api/workspaces': 'form',
  'PATCH /api/workspace': 'form',
  'PATCH /api/members/{person}': 'form',
  'POST /api/invitations': 'form',
};

/** The rule for a request's body. `path` is without the query, and can be decoded. */
export function bodyRule(method: string, path: string): BodyRule {
  const { name } = asked(method, path);
  return RULES[Object.hasOwn(BODIES, name) ? BODIES[name as WithBody] : 'none'];
}

/** What is wrong with a body as far as it has come, with the status to answer. */
export interface BodyProblem {
  status: 400 | 413;
  message: string;
}

/** Holds a body to a rule: to be given its pieces as they arrive. */
export function watchBody(rule: BodyRule): (piece: Uint8Array) => BodyProblem | undefined {
  const shape = newJsonShape();
  let bytes = 0;
  return (piece) => {
    bytes += piece.length;
    if (bytes > LIMITS[rule.bytes]) return { status: 413, message: tooLarge(rule.bytes) };
    if (!rule.json) return undefined;
    extendJsonShape(shape, piece);
    if (shape.values > rule.json.values)
      return { status: 400, message: `has more than ${grouped(rule.json.values)} values` };
    if (shape.deepest > rule.json.depth)
      return { status: 400, message: `is nested deeper than ${rule.json.depth}` };
    return undefined;
  };
}
