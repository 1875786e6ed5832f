import type { AnyObjectSchema } from 'yup';
import { PART_FORMS } from '@/core/description/part-forms';
import { TARGETS } from '@/core/output/targets';
import type { Schema } from '@/core/plan/model/schema-parts';
import {
  checkCodeForm,
  commentForm,
  correctionsForm,
  enterForm,
  exportForm,
  familyForm,
  fileForm,
  importForm,
  invitationForm,
  joinForm,
  joinHereForm,
  mappingForm,
  momentForm,
  newPlanForm,
  partForm,
  passwordForm,
  personForm,
  placeForm,
  presenceForm,
  profileForm,
  resolveForm,
  revisionForm,
  roleForm,
  signInForm,
  takeForm,
  tokenForm,
  verdictForm,
  workspaceForm,
} from '@/server/forms/forms';
import type { Route } from '@/server/people/access';
import { done, list, orNull, problemList, record, ref, text, whole } from './answers';
import { formSchema } from './form-schema';

/** What can be asked of the server, in one table: the description of the interface is made of it, and a test holds it to the routes. */
export interface Operation {
  group: 'Plans' | 'Edits' | 'Answers' | 'History' | 'Review' | 'Parts' | 'People' | 'Server';
  summary: string;
  query?: Readonly<Record<string, { says: string; required?: true; schema?: Schema }>>;
  /** The form that the body is held to, or its schema. */
  body?: AnyObjectSchema | { schema: Schema; type?: string };
  /** The answer when it is well. */
  status?: 201;
  answer: Schema | { type: string };
  /** What else is answered, beside 400 for a request that cannot be read and 404 for what is not there. */
  also?: Readonly<Record<number, string>>;
}

const made = record({ id: text });
/** What was read of a file, or `id: null` with what is wrong with it. */
const storedPart = record(
  { id: orNull(text) },
  { revision: whole, fingerprint: text, problems: problemList },
);
const mapping = (formSchema(mappingForm).properties as Record<string, Schema>).mapping as Schema;
const at = { at: { says: 'As it was behind this edit; without it, as it is.', schema: whole } };
const target = { says: 'Language of the code.', schema: { enum: TARGETS.map(({ id }) => id) } };

const planAndSeq = record({ plan: ref('Plan'), seq: whole });

export const OPERATIONS: Readonly<Record<Route, Operation>> = {
  'GET /api/plans': {
    group: 'Plans',
    summary: 'Plans, the one changed last first, at most 500',
    query: { find: { says: 'Words of name, revision or part; only those that hold all of them.' } },
    answer: record({ plans: list(ref('PlanSummary')) }),
  },
  'POST /api/plans': {
    group: 'Plans',
    summary: 'Makes an empty plan, or one from a board profile',
    body: newPlanForm,
    status: 201,
    answer: made,
  },
  'POST /api/plans/import': {
    group: 'Plans',
    summary:
      'Makes a plan of a plan file; a file that is wrong is answered with 200, `id: null` and its problems',
    body: importForm,
    status: 201,
    answer: record({ id: orNull(text) }),
  },
  'GET /api/plans/{id}': {
    group: 'Plans',
    summary: 'A plan, and the number of its newest edit',
    answer: planAndSeq,
  },
  'DELETE /api/plans/{id}': {
    group: 'Plans',
    summary: 'Deletes a plan; it can be brought back',
    answer: made,
  },
  'POST /api/plans/{id}/restore': { group: 'Plans', summary: 'Brings a deleted plan back', answer: made },
  'POST /api/plans/{id}/duplicate': {
    group: 'Plans',
    summary: 'Makes a copy with a history of its own',
    status: 201,
    answer: made,
  },
  'GET /api/plans/{id}/file': {
    group: 'Plans',
    summary: 'The plan as a file for a repository',
    query: at,
    answer: { type: 'application/json' },
  },
  'GET /api/plans/{id}/namesakes': {
    group: 'Plans',
    summary: 'How many other plans have its name and revision',
    answer: record({ namesakes: whole }),
  },
  'POST /api/plans/{id}/edits': {
    group: 'Edits',
    summary:
      'Appends an edit. It is stored once, however often it is sent; `status` is "saved", or "refused" when the plan has moved on. Both bring the edits that the sender had not seen',
    body: {
      schema: {
        type: 'object',
        additionalProperties: false,
        required: ['editId', 'client', 'madeAgainst', 'edit'],
        properties: {
          editId: { type: 'string', minLength: 1, maxLength: 80 },
          client: { type: 'string', minLength: 1, maxLength: 80 },
          author: { type: 'string', maxLength: 120 },
          madeAgainst: whole,
          edit: ref('Edit'),
        },
      },
    },
    answer: {
      anyOf: [
        record({ status: { const: 'saved' }, seq: whole, edits: list(ref('LoggedEdit')) }),
        record({ status: { const: 'refused' }, problems: problemList, edits: list(ref('LoggedEdit')) }),
      ],
    },
  },
  'GET /api/plans/{id}/events': {
    group: 'Edits',
    summary:
      'Server-sent events: every edit as it is stored; `comments` when some are new; `presence` with who is here',
    query: { after: { says: 'Edits behind this number.', schema: whole } },
    answer: { type: 'text/event-stream' },
  },
  'POST /api/plans/{id}/presence': {
    group: 'Edits',
    summary: 'Says where somebody is in the plan, or that they have left',
    body: presenceForm,
    answer: done,
  },
  'GET /api/plans/{id}/check': {
    group: 'Answers',
    summary: 'Counts and findings, as `mavrek check --format json` gives them',
    query: at,
    answer: ref('CheckReport'),
  },
  'GET /api/plans/{id}/code': {
    group: 'Answers',
    summary: 'The generated files; refused while the plan has errors, unless `force=1`',
    query: {
      target: { ...target, required: true },
      force: { says: '1: although the plan has errors.' },
      ...at,
    },
    answer: record({ fingerprint: text, files: list(ref('File')) }),
    also: { 409: 'The plan has errors' },
  },
  'POST /api/plans/{id}/place': {
    group: 'Answers',
    summary: 'Places what has no pad, or says why that cannot be; with `apply` as an edit',
    body: placeForm,
    answer: ref('PlaceReport'),
    also: { 409: 'The plan has moved on meanwhile' },
  },
  'GET /api/plans/{id}/schedule': {
    group: 'Answers',
    summary: 'The pin schedule, or the package as a drawing',
    query: { as: { says: 'Form.', schema: { enum: ['csv', 'md', 'svg'] } }, ...at },
    answer: { type: 'text/csv' },
  },
  'POST /api/plans/{id}/check-code': {
    group: 'Answers',
    summary: 'Puts the code through the compilers that the server has',
    body: checkCodeForm,
    answer: record({ seq: whole, tools: list(ref('ToolResult')) }),
  },
  'GET /api/plans/{id}/exports': {
    group: 'Answers',
    summary: 'The code that was taken away last',
    query: { target },
    answer: record({ last: orNull(ref('Export')) }),
  },
  'POST /api/plans/{id}/exports': {
    group: 'Answers',
    summary: 'Remembers that the code was taken away',
    body: exportForm,
    status: 201,
    answer: record({ last: ref('Export') }),
    also: { 409: 'The plan is at another edit' },
  },
  'GET /api/plans/{id}/exports/history': {
    group: 'Answers',
    summary: 'What was taken away so far',
    answer: record({ exports: list(ref('ExportHead')) }),
  },
  'GET /api/plans/{id}/exports/{number}': {
    group: 'Answers',
    summary: 'One of them, as it was',
    answer: ref('Export'),
  },
  'GET /api/compare': {
    group: 'Answers',
    summary:
      'What differs between two plans, or two states of one: `ID`, `ID@12` behind an edit, `ID~B` a revision; the same plan on another part or package',
    query: {
      from: { says: 'The first.', required: true },
      to: { says: 'The second.', required: true },
      fromPart: { says: 'The first on another part.' },
      fromPackage: { says: 'The first in another package.' },
      toPart: { says: 'The second on another part.' },
      toPackage: { says: 'The second in another package.' },
      target,
      as: { says: 'As a file.', schema: { enum: ['markdown', 'json'] } },
    },
    answer: ref('Comparison'),
  },
  'GET /api/plans/{id}/history': {
    group: 'History',
    summary: 'Edits in words, newest first, a page at a time',
    query: { before: { says: 'Older than this edit.', schema: whole } },
    answer: record({ entries: list(ref('HistoryEntry')), more: { type: 'boolean' }, createdAt: text }),
  },
  'GET /api/plans/{id}/at/{seq}': {
    group: 'History',
    summary: 'The plan as it was behind an edit',
    answer: planAndSeq,
  },
  'POST /api/plans/{id}/branch': {
    group: 'History',
    summary: 'A new plan that begins there',
    body: momentForm,
    status: 201,
    answer: made,
  },
  'GET /api/plans/{id}/revisions': {
    group: 'History',
    summary: 'The revisions that are kept',
    answer: record({ revisions: list(ref('RevisionHead')) }),
  },
  'POST /api/plans/{id}/revisions': {
    group: 'History',
    summary: 'Keeps the plan for good, under the revision that it says it is',
    body: revisionForm,
    status: 201,
    answer: record({ revision: ref('RevisionHead') }),
    also: { 409: 'There is one of that name' },
  },
  'GET /api/plans/{id}/revisions/{name}': {
    group: 'History',
    summary: 'A revision: plan, findings, files',
    answer: ref('Revision'),
  },
  'GET /api/plans/{id}/comments': {
    group: 'Review',
    summary: 'What is said of the plan',
    answer: record({ comments: list(ref('Comment')) }),
  },
  'POST /api/plans/{id}/comments': {
    group: 'Review',
    summary: 'Says something of a net, a setting, a pad, a finding or the plan',
    body: commentForm,
    status: 201,
    answer: record({ comment: ref('Comment') }),
    also: { 409: 'There is no such comment to answer, or there are too many' },
  },
  'PATCH /api/plans/{id}/comments/{comment}': {
    group: 'Review',
    summary: 'Resolves a comment, or opens it again',
    body: resolveForm,
    answer: record({ comment: ref('Comment') }),
  },
  'GET /api/plans/{id}/verdicts': {
    group: 'Review',
    summary: 'What reviewers said of revisions',
    answer: record({ verdicts: list(ref('Verdict')) }),
  },
  'POST /api/plans/{id}/verdicts': {
    group: 'Review',
    summary: 'Approves a circuit of a revision, or all of it, or asks for changes',
    body: verdictForm,
    status: 201,
    answer: record({ verdicts: list(ref('Verdict')) }),
  },
  'GET /api/plans/{id}/sign-off': {
    group: 'Review',
    summary: 'The newest revision that is signed',
    answer: record({ signed: orNull(ref('SignOff')) }),
  },
  'GET /api/plans/{id}/variants': {
    group: 'Review',
    summary: 'Its variants, and what they do not agree on',
    answer: record({
      found: orNull(record({ family: ref('Variants'), all: list(text), report: ref('VariantReport') })),
    }),
  },
  'PUT /api/plans/{id}/variants': {
    group: 'Review',
    summary: 'Says which plans are its variants, and which circuits they share',
    body: familyForm,
    answer: record({ family: orNull(ref('Variants')) }),
  },
  'POST /api/plans/{id}/variants/take': {
    group: 'Review',
    summary: 'Takes a net, or one field of it, over from another variant',
    body: takeForm,
    answer: made,
    also: { 409: 'It does not apply any more' },
  },
  'GET /api/profiles': {
    group: 'Plans',
    summary: 'Board profiles',
    answer: record({ profiles: list(ref('ProfileSummary')) }),
  },
  'POST /api/profiles': {
    group: 'Plans',
    summary: 'Keeps the locked nets of a plan as a profile',
    body: profileForm,
    status: 201,
    answer: made,
  },
  'DELETE /api/profiles/{id}': { group: 'Plans', summary: 'Removes a profile', answer: made },
  'GET /api/devices': {
    group: 'Parts',
    summary: 'All parts',
    answer: record({ devices: list(ref('PartSummary')) }),
  },
  'POST /api/devices': {
    group: 'Parts',
    summary: 'Stores a description; one that is wrong is answered with 200, `id: null` and its problems',
    body: partForm,
    status: 201,
    answer: storedPart,
    also: { 409: 'The part has been changed meanwhile' },
  },
  'GET /api/devices/{id}': {
    group: 'Parts',
    summary: 'A description, today’s or one of before',
    query: { fingerprint: { says: 'As it was under this fingerprint.' } },
    answer: ref('Part'),
  },
  'DELETE /api/devices/{id}': {
    group: 'Parts',
    summary: 'Removes a part that no plan is made on',
    answer: made,
    also: { 409: 'Plans are made on it' },
  },
  'PUT /api/devices/{id}/corrections': {
    group: 'Parts',
    summary: 'Lays corrections over a description',
    body: correctionsForm,
    answer: storedPart,
    also: { 409: 'The part has been changed meanwhile' },
  },
  'GET /api/devices/{id}/export': {
    group: 'Parts',
    summary: 'A part as a file',
    query: {
      as: {
        says: 'Form.',
        required: true,
        schema: { enum: [...PART_FORMS] },
      },
    },
    answer: { type: 'application/octet-stream' },
  },
  'GET /api/documents/{sha256}': {
    group: 'Parts',
    summary: 'A document that tables were read from',
    answer: { type: 'application/pdf' },
  },
  'PUT /api/documents/{sha256}': {
    group: 'Parts',
    summary: 'Keeps a PDF document under the hash of its content',
    query: { name: { says: 'What it is called.' } },
    body: { schema: { type: 'string', format: 'binary' }, type: 'application/pdf' },
    answer: record({ sha256: text }),
  },
  'POST /api/files': {
    group: 'Parts',
    summary: 'Reads a description or recipe file; says what is wrong with it',
    body: fileForm,
    answer: record({}, { value: { anyOf: [ref('Part'), ref('Recipe')] }, problems: problemList }),
  },
  'GET /api/mappings': {
    group: 'Parts',
    summary: 'What the columns of a table with these headings were the last time',
    query: { signature: { says: 'The headings.', required: true } },
    answer: record({ mapping: orNull(mapping) }),
  },
  'PUT /api/mappings': {
    group: 'Parts',
    summary: 'Remembers what columns are',
    body: mappingForm,
    answer: record({ mapping }),
  },
  'POST /api/sign-in': {
    group: 'People',
    summary: 'Signs in by address and password, and sets a cookie; when one of both is wrong, `id` is null',
    body: signInForm,
    answer: record({ id: orNull(text) }),
    also: { 429: 'It was tried too often' },
  },
  'GET /api/sign-in/elsewhere': {
    group: 'People',
    summary: 'Leads to the OpenID Connect service that the server is set up with',
    query: { next: { says: 'The page wanted.' } },
    answer: { type: 'text/html' },
  },
  'GET /api/sign-in/elsewhere/back': {
    group: 'People',
    summary: 'Where that service leads back to',
    query: { code: { says: 'From the service.' }, state: { says: 'From the service.' } },
    answer: { type: 'text/html' },
  },
  'POST /api/join': {
    group: 'People',
    summary: 'Makes an account by an invitation, and signs in',
    body: joinForm,
    status: 201,
    answer: made,
    also: { 429: 'It was tried too often' },
  },
  'POST /api/join/here': {
    group: 'People',
    summary: 'Takes an invitation with the account that one has',
    body: joinHereForm,
    answer: record({ workspace: text }),
  },
  'POST /api/sign-out': { group: 'People', summary: 'Ends this session', answer: done },
  'GET /api/account': {
    group: 'People',
    summary: 'Who asks, in which workspace and role',
    answer: record({ me: ref('Me') }),
  },
  'PATCH /api/account': {
    group: 'People',
    summary: 'Changes one’s name',
    body: personForm,
    answer: record({ name: text }),
    also: { 409: 'Somebody has that name' },
  },
  'DELETE /api/account': {
    group: 'People',
    summary: 'Deletes one’s account; what one did stays under a pseudonym',
    answer: record({ name: text }),
    also: { 409: 'A workspace would lose its last owner' },
  },
  'PUT /api/account/password': {
    group: 'People',
    summary: 'Sets another password, and signs out everywhere else',
    body: passwordForm,
    answer: done,
  },
  'GET /api/account/sessions': {
    group: 'People',
    summary: 'Where one is signed in',
    answer: record({ sessions: list(ref('Session')) }),
  },
  'DELETE /api/account/sessions': { group: 'People', summary: 'Signs out everywhere', answer: done },
  'DELETE /api/account/sessions/{session}': { group: 'People', summary: 'Ends one session', answer: made },
  'GET /api/account/tokens': {
    group: 'People',
    summary: 'One’s access tokens',
    answer: record({ tokens: list(ref('Token')) }),
  },
  'POST /api/account/tokens': {
    group: 'People',
    summary: 'Makes an access token; its text is told this once',
    body: tokenForm,
    status: 201,
    answer: record({ id: text, token: text }),
    also: { 409: 'There are too many' },
  },
  'DELETE /api/account/tokens/{token}': { group: 'People', summary: 'Withdraws a token', answer: made },
  'PUT /api/account/workspace': {
    group: 'People',
    summary: 'Goes to another workspace',
    body: enterForm,
    answer: record({ workspace: text }),
  },
  'POST /api/workspaces': {
    group: 'People',
    summary: 'Makes a workspace',
    body: workspaceForm,
    status: 201,
    answer: made,
    also: { 409: 'There are too many' },
  },
  'PATCH /api/workspace': {
    group: 'People',
    summary: 'Renames the workspace',
    body: workspaceForm,
    answer: record({ name: text }),
  },
  'GET /api/members': {
    group: 'People',
    summary: 'Who is in the workspace',
    answer: record({ members: list(ref('Member')) }),
  },
  'PATCH /api/members/{person}': {
    group: 'People',
    summary: 'Gives somebody another role',
    body: roleForm,
    answer: record({ id: text, role: text }),
    also: { 409: 'The workspace would lose its last owner' },
  },
  'DELETE /api/members/{person}': {
    group: 'People',
    summary: 'Takes somebody out of the workspace',
    answer: made,
    also: { 409: 'The workspace would lose its last owner' },
  },
  'DELETE /api/people/{person}': {
    group: 'People',
    summary: 'Deletes somebody’s account; what they did stays under a pseudonym',
    answer: record({ id: text, name: text }),
    also: { 409: 'They are in workspaces of others' },
  },
  'GET /api/invitations': {
    group: 'People',
    summary: 'Invitations that are open',
    answer: record({ invitations: list(ref('Invitation')) }),
  },
  'POST /api/invitations': {
    group: 'People',
    summary: 'Invites somebody; the link is told this once',
    body: invitationForm,
    status: 201,
    answer: record({ id: text, link: text }),
  },
  'DELETE /api/invitations/{invitation}': {
    group: 'People',
    summary: 'Withdraws an invitation',
    answer: made,
  },
  'GET /api/audit': {
    group: 'People',
    summary: 'Who did what, newest first, a page at a time',
    query: { before: { says: 'Older than this entry.', schema: whole } },
    answer: record({ entries: list(ref('AuditEntry')), more: { type: 'boolean' } }),
  },
  'GET /api/health': {
    group: 'Server',
    summary: 'Ready: whether the server can do its work, with a database that has its schema and leads',
    answer: record(
      { ok: { type: 'boolean' }, instance: text },
      { standby: { enum: ['synchronous', 'missing'] } },
    ),
    also: {
      503: 'The database has not been brought to this version yet, or the node that is asked does not lead',
    },
  },
  'GET /api/live': {
    group: 'Server',
    summary: 'Live: whether the process answers, whatever its database does',
    answer: record({ ok: { type: 'boolean' }, instance: text }),
  },
  'GET /api/openapi.json': { group: 'Server', summary: 'This description', answer: { type: 'object' } },
};
