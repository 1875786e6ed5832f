import type { Problem } from '@/core/base/problems';
import { failWith, ok, type Result } from '@/core/base/result';
import type { RecipeFile } from '@/core/description/recipe-file';
import type { Correction, DeviceDescription } from '@/core/description/types';
import type { PartSummary } from '@/core/device/part-facts';
import type { Mapping } from '@/core/import/tables/mapping';
import type { ExportHead, ExportRecord, ToolResult } from '@/core/output/exports';
import type { AuditEntry, Role, Scope } from '@/core/people/rights';
import type { History, RevisionHead } from '@/core/plan/history';
import type { Plan } from '@/core/plan/model/types';
import type { PlanSummary } from '@/core/plan/summary';
import type { PlanComment, SignOff, Subject, Verdict } from '@/core/review/review';
import type { FoundVariants } from '@/core/variants/variants';
import { workspaceHeader } from './me';

/** Calls to the server. Failures come back as problems, never as exceptions. */

export type Answer<T> = { ok: true; value: T } | { ok: false; status: number; problems: Problem[] };

const UNREACHABLE: Problem = { place: 'server', message: 'cannot be reached' };

export async function call<T>(method: string, path: string, body?: unknown): Promise<Answer<T>> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers: {
        ...workspaceHeader(),
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
      cache: 'no-cache',
    });
  } catch {
    return { ok: false, status: 0, problems: [UNREACHABLE] };
  }
  const parsed = (await response.json().catch(() => undefined)) as (T & { problems?: Problem[] }) | undefined;
  if (response.ok && parsed !== undefined) return { ok: true, value: parsed };
  const problems = parsed?.problems ?? [{ place: 'server', message: `answered ${response.status}` }];
  return { ok: false, status: response.status, problems };
}

/** Whether the server and its database can do their work. */
export const serverAnswers = async (): Promise<boolean> => (await call('GET', '/api/health')).ok;

export interface StoredPart {
  id: string;
  revision: number;
  fingerprint: string;
}
type StoredAnswer = StoredPart | { id: null; problems: Problem[] };

function judged(answer: Answer<StoredAnswer>): Answer<StoredPart> {
  if (!answer.ok) return answer;
  if (answer.value.id !== null) return { ok: true, value: answer.value };
  return { ok: false, status: 200, problems: answer.value.problems };
}

/** A file that is read at the server: its value, or what is wrong with it. */
async function readFile<T>(
  kind: 'description' | 'recipe',
  fileName: string,
  text: string,
): Promise<Result<T>> {
  const answer = await call<{ value?: T; problems?: Problem[] }>('POST', '/api/files', {
    kind,
    fileName,
    text,
  });
  if (!answer.ok) return failWith(answer.problems);
  return answer.value.value === undefined ? failWith(answer.value.problems ?? []) : ok(answer.value.value);
}

export const api = {
  readDescription: (fileName: string, text: string) =>
    readFile<DeviceDescription>('description', fileName, text),
  readRecipe: (fileName: string, text: string) => readFile<RecipeFile>('recipe', fileName, text),
  createPlan: (name: string, device: string, pkg: string, profile?: string) =>
    call<{ id: string }>('POST', '/api/plans', {
      name,
      device,
      package: pkg,
      ...(profile ? { profile } : {}),
    }),
  saveProfile: async (name: string, plan: Plan) => {
    // Printing knows the plan's schema, which nothing else in the page has need of.
    const { printPlan } = await import('@/core/plan/file/print-plan');
    return call<{ id: string }>('POST', '/api/profiles', { name, text: printPlan(plan) });
  },
  removeProfile: (id: string) => call<{ id: string }>('DELETE', `/api/profiles/${id}`),
  /** A file that is wrong is told in the answer, which itself is no failure. */
  importPlan: async (fileName: string, text: string): Promise<Answer<{ id: string }>> => {
    const answer = await call<{ id: string | null }>('POST', '/api/plans/import', { fileName, text });
    if (!answer.ok || answer.value.id !== null) return answer as Answer<{ id: string }>;
    const { problems } = answer.value as unknown as { problems: Problem[] };
    return { ok: false, status: 200, problems };
  },
  plans: () => call<{ plans: PlanSummary[] }>('GET', '/api/plans'),
  plan: (id: string) => call<{ plan: Plan; seq: number }>('GET', `/api/plans/${id}`),
  namesakes: (id: string) => call<{ namesakes: number }>('GET', `/api/plans/${id}/namesakes`),
  duplicatePlan: (id: string) => call<{ id: string }>('POST', `/api/plans/${id}/duplicate`, {}),
  deletePlan: (id: string) => call<{ id: string }>('DELETE', `/api/plans/${id}`),
  restorePlan: (id: string) => call<{ id: string }>('POST', `/api/plans/${id}/restore`, {}),
  device: (id: string, fingerprint = '') =>
    call<DeviceDescription>('GET', `/api/devices/${id}${fingerprint ? `?fingerprint=${fingerprint}` : ''}`),
  parts: () => call<{ devices: PartSummary[] }>('GET', '/api/devices'),
  /** Problems of the description itself come back as problems with status 200. */
  storePart: async (fileName: string, text: string, expected: number): Promise<Answer<StoredPart>> =>
    judged(await call<StoredAnswer>('POST', '/api/devices', { fileName, text, expected })),
  storeCorrections: async (
    id: string,
    corrections: readonly Correction[],
    expected: number,
  ): Promise<Answer<StoredPart>> =>
    judged(await call<StoredAnswer>('PUT', `/api/devices/${id}/corrections`, { corrections, expected })),
  removePart: (id: string) => call<{ id: string }>('DELETE', `/api/devices/${id}`),
  mapping: (signature: string) =>
    call<{ mapping: Mapping | null }>('GET', `/api/mappings?signature=${encodeURIComponent(signature)}`),
  rememberMapping: (signature: string, mapping: Mapping) =>
    call<{ mapping: Mapping }>('PUT', '/api/mappings', { signature, mapping }),
  lastExport: (id: string, target: string) =>
    call<{ last: ExportRecord | null }>('GET', `/api/plans/${id}/exports?target=${target}`),
  /** Of any target. */
  newestExport: (id: string) => call<{ last: ExportRecord | null }>('GET', `/api/plans/${id}/exports`),
  exportHistory: (id: string) => call<{ exports: ExportHead[] }>('GET', `/api/plans/${id}/exports/history`),
  oneExport: (id: string, number: number) => call<ExportRecord>('GET', `/api/plans/${id}/exports/${number}`),
  checkCode: (id: string, target: string, at?: number) =>
    call<{ seq: number; tools: ToolResult[] }>('POST', `/api/plans/${id}/check-code`, {
      target,
      ...(at === undefined ? {} : { at }),
    }),
  history: (id: string, before?: number) =>
    call<History>('GET', `/api/plans/${id}/history${before === undefined ? '' : `?before=${before}`}`),
  branch: (id: string, seq: number) => call<{ id: string }>('POST', `/api/plans/${id}/branch`, { seq }),
  planAt: (id: string, seq: number) => call<{ plan: Plan; seq: number }>('GET', `/api/plans/${id}/at/${seq}`),
  revisions: (id: string) => call<{ revisions: RevisionHead[] }>('GET', `/api/plans/${id}/revisions`),
  keepRevision: (id: string, seq: number, note: string, author: string) =>
    call<{ revision: RevisionHead }>('POST', `/api/plans/${id}/revisions`, { seq, note, author }),
  comments: (id: string) => call<{ comments: PlanComment[] }>('GET', `/api/plans/${id}/comments`),
  addComment: (id: string, subject: Subject, text: string, author: string, answers: string | null = null) =>
    call<{ comment: PlanComment }>('POST', `/api/plans/${id}/comments`, { subject, text, author, answers }),
  resolveComment: (id: string, comment: string, resolved: boolean, author: string) =>
    call<{ comment: PlanComment }>('PATCH', `/api/plans/${id}/comments/${comment}`, { resolved, author }),
  variants: (id: string) => call<{ found: FoundVariants | null }>('GET', `/api/plans/${id}/variants`),
  setVariants: (id: string, plans: readonly string[], circuits: readonly string[]) =>
    call<object>('PUT', `/api/plans/${id}/variants`, { plans, circuits }),
  takeOver: (
    id: string,
    take: { from: string; circuit: string; net: string; field?: string; author: string },
  ) => call<{ id: string }>('POST', `/api/plans/${id}/variants/take`, take),
  signOff: (id: string) =>
    call<{ signed: ({ revision: string } & SignOff) | null }>('GET', `/api/plans/${id}/sign-off`),
  verdicts: (id: string) => call<{ verdicts: Verdict[] }>('GET', `/api/plans/${id}/verdicts`),
  addVerdict: (id: string, verdict: Omit<Verdict, 'at' | 'fingerprint'>) =>
    call<{ verdicts: Verdict[] }>('POST', `/api/plans/${id}/verdicts`, verdict),
  /** What is wrong with address or password is told in the answer, which itself is no failure. */
  signIn: async (email: string, password: string): Promise<Answer<{ id: string }>> => {
    const answer = await call<{ id: string | null; problems?: Problem[] }>('POST', '/api/sign-in', {
      email,
      password,
    });
    if (!answer.ok || answer.value.id !== null) return answer as Answer<{ id: string }>;
    return { ok: false, status: 200, problems: answer.value.problems ?? [] };
  },
  join: (key: string, name: string, password: string) =>
    call<{ id: string }>('POST', '/api/join', { key, name, password }),
  joinHere: (key: string) => call<{ workspace: string }>('POST', '/api/join/here', { key }),
  signOut: () => call<object>('POST', '/api/sign-out', {}),
  signOutEverywhere: () => call<object>('DELETE', '/api/account/sessions'),
  endSession: (id: string) => call<object>('DELETE', `/api/account/sessions/${id}`),
  renameMe: (name: string) => call<{ name: string }>('PATCH', '/api/account', { name }),
  changePassword: (now: string, next: string) => call<object>('PUT', '/api/account/password', { now, next }),
  deleteMe: () => call<{ name: string }>('DELETE', '/api/account'),
  makeToken: (name: string, scope: Scope, days: number) =>
    call<{ id: string; token: string }>('POST', '/api/account/tokens', { name, scope, days }),
  withdrawToken: (id: string) => call<object>('DELETE', `/api/account/tokens/${id}`),
  enterWorkspace: (workspace: string) => call<object>('PUT', '/api/account/workspace', { workspace }),
  makeWorkspace: (name: string) => call<{ id: string }>('POST', '/api/workspaces', { name }),
  renameWorkspace: (name: string) => call<object>('PATCH', '/api/workspace', { name }),
  setRole: (person: string, role: Role) => call<object>('PATCH', `/api/members/${person}`, { role }),
  removeMember: (person: string) => call<object>('DELETE', `/api/members/${person}`),
  deletePerson: (person: string) => call<{ name: string }>('DELETE', `/api/people/${person}`),
  invite: (email: string, role: Role) =>
    call<{ id: string; link: string }>('POST', '/api/invitations', { email, role }),
  withdrawInvitation: (id: string) => call<object>('DELETE', `/api/invitations/${id}`),
  audit: (before?: number) =>
    call<{ entries: AuditEntry[]; more: boolean }>(
      'GET',
      `/api/audit${before === undefined ? '' : `?before=${before}`}`,
    ),
  recordExport: (id: string, seq: number, target: string) =>
    call<{ last: ExportRecord }>('POST', `/api/plans/${id}/exports`, { seq, target }),
};
