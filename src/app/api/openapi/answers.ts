import { ROLES, SCOPES } from '@/core/people/rights';
import type { Schema } from '@/core/plan/model/schema-parts';
import { VERDICTS } from '@/core/review/review';

/** What answers hold, by name: components of the description. A test holds real answers to them. */

export const ref = (name: string): Schema => ({ $ref: `#/components/schemas/${name}` });
export const text: Schema = { type: 'string' };
export const whole: Schema = { type: 'integer', minimum: 0 };
export const truth: Schema = { type: 'boolean' };
export const anything: Schema = { type: 'object' };
const time: Schema = { type: 'string', format: 'date-time' };
export const list = (items: Schema): Schema => ({ type: 'array', items });
export const orNull = (schema: Schema): Schema => ({ anyOf: [schema, { type: 'null' }] });
export const record = (properties: Readonly<Record<string, Schema>>): Schema => ({
  type: 'object',
  required: Object.keys(properties),
  properties,
});
/** One with all of another, and more. */
const more = (base: Schema, properties: Readonly<Record<string, Schema>>): Schema =>
  record({ ...(base.properties as Record<string, Schema>), ...properties });

const revisionHead = record({
  name: text,
  seq: whole,
  note: text,
  author: text,
  fingerprint: text,
  errors: whole,
  warnings: whole,
  at: time,
});
const exportHead = record({
  id: whole,
  seq: whole,
  target: text,
  revision: text,
  fingerprint: text,
  options: anything,
  at: time,
});
const file = record({ path: text, text });
const finding = record({ rule: text, severity: { enum: ['error', 'warning', 'note'] }, message: text });
const workspace = record({ id: text, name: text });
const role: Schema = { enum: ROLES };

export const ANSWERS: Readonly<Record<string, Schema>> = {
  PlanSummary: record({
    id: text,
    name: text,
    revision: text,
    device: text,
    package: text,
    nets: whole,
    placed: whole,
    errors: whole,
    warnings: whole,
    updatedAt: time,
    deletedAt: orNull(time),
  }),
  LoggedEdit: record({ seq: whole, editId: text, client: text, edit: ref('Edit') }),
  HistoryEntry: record({ seq: whole, at: time, author: text, client: text, text, steps: whole }),
  File: file,
  Finding: finding,
  RevisionHead: revisionHead,
  Revision: more(revisionHead, {
    plan: ref('Plan'),
    partFingerprint: text,
    findings: list(ref('Finding')),
    files: list(record({ target: text, files: list(ref('File')) })),
  }),
  ExportHead: exportHead,
  Export: more(exportHead, { files: list(ref('File')), image: anything }),
  Comment: record({
    id: text,
    subject: record({ kind: { enum: ['plan', 'net', 'setting', 'pad', 'finding'] } }),
    text,
    author: text,
    at: time,
    answers: orNull(text),
    resolvedBy: orNull(text),
    resolvedAt: orNull(time),
  }),
  Verdict: record({
    revision: text,
    circuit: text,
    verdict: { enum: VERDICTS },
    note: text,
    author: text,
    fingerprint: text,
    at: time,
  }),
  ToolResult: record({
    id: text,
    title: text,
    state: { enum: ['passed', 'failed', 'absent', 'stopped'] },
    said: text,
  }),
  ProfileSummary: record({ id: text, name: text, device: text, package: text, nets: whole }),
  PartSummary: record({
    id: text,
    name: text,
    maker: text,
    summary: text,
    fingerprint: text,
    revision: whole,
    shipped: truth,
    plans: whole,
    updatedAt: time,
    packages: list(record({ id: text, name: text, pins: whole, io: whole })),
    pads: whole,
    ioPads: whole,
    functions: whole,
    registers: whole,
    corrections: whole,
    recipe: truth,
  }),
  Comparison: record({
    format: text,
    from: anything,
    to: anything,
    nets: record({
      added: list(anything),
      gone: list(anything),
      moved: list(anything),
      changed: list(anything),
    }),
    findings: record({ fresh: list(anything), cured: list(anything) }),
    registers: orNull(list(anything)),
    application: record({ compiles: truth }),
    code: record({ target: text, files: list(anything) }),
    same: truth,
  }),
  Me: record({
    id: text,
    name: text,
    email: text,
    workspace,
    role,
    workspaces: list(more(workspace, { role })),
  }),
  Member: record({ id: text, name: text, email: text, role, since: time }),
  Invitation: record({ id: text, email: text, role, madeAt: time, expiresAt: time }),
  Session: record({ id: text, agent: text, madeAt: time, seenAt: time, own: truth }),
  Token: record({
    id: text,
    name: text,
    scope: { enum: SCOPES },
    workspace: text,
    madeAt: time,
    expiresAt: time,
    usedAt: orNull(time),
  }),
  AuditEntry: record({
    id: whole,
    at: time,
    who: text,
    via: text,
    action: text,
    target: text,
    status: whole,
  }),
};
