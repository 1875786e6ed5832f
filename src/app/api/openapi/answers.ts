import { ROLES, SCOPES } from '@/core/people/rights';
import type { Schema } from '@/core/plan/model/schema-parts';
import { VERDICTS } from '@/core/review/review';

/** What answers hold, by name: components of the description. A test holds real answers to them. */

export const ref = (name: string): Schema => ({ $ref: `#/components/schemas/${name}` });
export const text: Schema = { type: 'string' };
export const whole: Schema = { type: 'integer', minimum: 0 };
export const truth: Schema = { type: 'boolean' };
/** An object without anything in it: it has been done. */
export const done: Schema = { type: 'object', additionalProperties: false };
const number: Schema = { type: 'number' };
const by = (values: Schema): Schema => ({ type: 'object', additionalProperties: values });
const time: Schema = { type: 'string', format: 'date-time' };
export const list = (items: Schema): Schema => ({ type: 'array', items });
export const orNull = (schema: Schema): Schema => ({ anyOf: [schema, { type: 'null' }] });
export const record = (
  properties: Readonly<Record<string, Schema>>,
  optional: Readonly<Record<string, Schema>> = {},
): Schema => ({
  type: 'object',
  required: Object.keys(properties),
  properties: { ...properties, ...optional },
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
  // Exports of before there were options have none.
  options: { anyOf: [ref('Plan_code'), done] },
  at: time,
});
/** That with the initialisation says so, and on which line each operation stands. */
const file = record({ path: text, text }, { operations: list(whole), initialises: truth });
export const problemList = list(record({ place: text, message: text }));
const severity: Schema = { enum: ['error', 'warning', 'note'] };
const counts = record({ error: whole, warning: whole, note: whole });
const remedy = record({ label: text, edit: ref('Edit') });
const subject: Schema = {
  anyOf: [
    record({ kind: { const: 'plan' } }),
    record({ kind: { const: 'net' }, net: text }),
    record({ kind: { const: 'setting' }, net: text, key: text }),
    record({ kind: { const: 'pad' }, pad: text }),
    record({ kind: { const: 'finding' }, rule: text, nets: list(text), pads: list(text) }),
  ],
};
const compared = record({
  name: text,
  revision: text,
  part: text,
  package: text,
  fingerprint: text,
  findings: counts,
});
const fromTo = (value: Schema): Schema => record({ name: text, circuit: text, from: value, to: value });
const netLine = record({ name: text, circuit: text, at: text, role: text });
const findingLine = record({ rule: text, severity, message: text, circuits: list(text), waived: truth });
const applicationName = record(
  { name: text, declaration: text, circuit: text },
  { value: number, handler: truth },
);
const pitch = { pitchMillimetres: number };
const shape: Schema = {
  anyOf: [
    record({ kind: { const: 'dual-row' }, pins: whole }, pitch),
    record({ kind: { const: 'quad' }, pins: whole }, { ...pitch, exposedPad: truth }),
    record({ kind: { const: 'ball-grid' }, rows: list(text), columns: whole }, pitch),
  ],
};
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
  Finding: record({
    rule: text,
    severity,
    message: text,
    pads: list(text),
    pins: list(text),
    nets: list(text),
    about: orNull(text),
    remedies: list(remedy),
    waived: truth,
    waiver: orNull(record({ reason: text, author: text, date: text })),
  }),
  CheckReport: record({
    plan: record({ name: text, revision: text, device: text, package: text, fingerprint: text }),
    counts,
    findings: list(ref('Finding')),
  }),
  PlaceReport: record(
    {
      status: { enum: ['optimal', 'feasible', 'infeasible', 'stopped'] },
      optimalFor: orNull({ enum: ['all', 'centres'] }),
      objective: orNull(number),
      bound: orNull(number),
      terms: by(number),
      placements: by(text),
      moves: list(record({ net: text, from: orNull(text), to: text, signal: orNull(text) })),
      conflict: list(record({ kind: text, message: text, nets: list(text) })),
      smallest: orNull(truth),
      message: orNull(text),
      suggestions: list(remedy),
    },
    { seq: whole },
  ),
  RevisionHead: revisionHead,
  Revision: more(revisionHead, {
    plan: ref('Plan'),
    partFingerprint: text,
    findings: list(ref('Finding')),
    files: list(record({ target: text, files: list(ref('File')) })),
  }),
  ExportHead: exportHead,
  Export: more(exportHead, { files: list(ref('File')), image: by(whole) }),
  Comment: record({
    id: text,
    subject,
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
  ToolResult: record(
    {
      id: text,
      title: text,
      state: { enum: ['passed', 'failed', 'absent', 'stopped'] },
      said: text,
    },
    { size: record({ code: whole, memory: whole }), install: text },
  ),
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
    packages: list(record({ id: text, name: text, shape, pins: whole, io: whole })),
    pads: whole,
    ioPads: whole,
    functions: whole,
    registers: whole,
    corrections: whole,
    recipe: truth,
  }),
  Comparison: record({
    format: text,
    from: compared,
    to: compared,
    nets: record({
      added: list(netLine),
      gone: list(netLine),
      moved: list(fromTo(text)),
      changed: list(
        record({ name: text, circuit: text, changes: list(record({ what: text, from: text, to: text })) }),
      ),
    }),
    others: list(
      record({
        what: text,
        change: { enum: ['added', 'gone', 'changed'] },
        circuits: list(text),
        from: text,
        to: text,
      }),
    ),
    findings: record({ fresh: list(findingLine), cured: list(findingLine) }),
    registers: orNull(
      list(
        record({
          name: text,
          from: text,
          to: text,
          bits: list(
            record({
              bits: text,
              field: text,
              pad: text,
              nets: list(text),
              circuits: list(text),
              from: text,
              to: text,
            }),
          ),
        }),
      ),
    ),
    application: record({
      compiles: truth,
      gone: list(applicationName),
      declared: list(fromTo(text)),
      values: list(fromTo(number)),
      added: list(applicationName),
      handlers: list(applicationName),
      levels: list(fromTo(text)),
    }),
    code: record(
      {
        target: text,
        files: list(record({ path: text, added: whole, removed: whole, lines: list(text) })),
      },
      { why: text },
    ),
    same: truth,
  }),
  Variants: record({ plans: list(text), circuits: list(text) }),
  VariantReport: record({
    variants: list(record({ name: text, revision: text, part: text, package: text, prefix: text })),
    circuits: list(text),
    lacks: list(record({ circuit: text, net: text, has: list(truth) })),
    differences: list(record({ circuit: text, net: text, field: text, values: list(orNull(text)) })),
    names: list(record({ name: text, circuit: text, declarations: list(orNull(text)) })),
    onePrefix: truth,
  }),
  SignOff: record({ revision: text, by: list(text), at: time, fingerprint: text }),
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
