import type { GeneratedFile } from '@/core/codegen/types';
import type { DeviceDescription } from '@/core/device/types';
import type { Problem } from '@/core/result';

/** Calls to the server. Failures come back as problems, never as exceptions. */

export type Answer<T> = { ok: true; value: T } | { ok: false; status: number; problems: Problem[] };

const UNREACHABLE: Problem = { place: 'server', message: 'cannot be reached' };

export async function call<T>(method: string, path: string, body?: unknown): Promise<Answer<T>> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers: body === undefined ? {} : { 'content-type': 'application/json' },
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

export interface LastExport {
  seq: number;
  fingerprint: string;
  files: GeneratedFile[];
  at: string;
}

export const api = {
  createPlan: (name: string, device: string, pkg: string) =>
    call<{ id: string }>('POST', '/api/plans', { name, device, package: pkg }),
  /** A file that is wrong is told in the answer, which itself is no failure. */
  importPlan: async (fileName: string, text: string): Promise<Answer<{ id: string }>> => {
    const answer = await call<{ id: string | null }>('POST', '/api/plans/import', { fileName, text });
    if (!answer.ok || answer.value.id !== null) return answer as Answer<{ id: string }>;
    const { problems } = answer.value as unknown as { problems: Problem[] };
    return { ok: false, status: 200, problems };
  },
  duplicatePlan: (id: string) => call<{ id: string }>('POST', `/api/plans/${id}/duplicate`, {}),
  deletePlan: (id: string) => call<{ id: string }>('DELETE', `/api/plans/${id}`),
  restorePlan: (id: string) => call<{ id: string }>('POST', `/api/plans/${id}/restore`, {}),
  device: (id: string) => call<DeviceDescription>('GET', `/api/devices/${id}`),
  lastExport: (id: string, target: string) =>
    call<{ last: LastExport | null }>('GET', `/api/plans/${id}/exports?target=${target}`),
  recordExport: (id: string, seq: number, target: string) =>
    call<{ last: LastExport }>('POST', `/api/plans/${id}/exports`, { seq, target }),
};
