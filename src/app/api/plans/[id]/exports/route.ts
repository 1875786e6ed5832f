import { generateFiles } from '@/core/codegen/generate';
import { targetById } from '@/core/codegen/targets';
import { derive } from '@/core/derive';
import { lastExport, recordExport } from '@/server/exports';
import { planDevice } from '@/server/parts';
import { readPlan } from '@/server/plans';
import { exportForm } from '../../../forms';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (request, { id }) => {
  if (!(await readPlan(id))) return notFound('plan');
  const target = new URL(request.url).searchParams.get('target') ?? 'c';
  return answer({ last: (await lastExport(id, target)) ?? null });
});

/** Remembers that the code of revision `seq` was taken away. Refused when the plan has moved on since. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const form = await readForm(request, exportForm);
  const target = targetById(form.target);
  if (!target) return refuse(400, { place: 'target', message: `there is no target "${form.target}"` });
  const current = await readPlan(id);
  const device = current && (await planDevice(current.plan));
  if (!current || !device) return notFound('plan');
  if (current.seq !== form.seq) {
    return refuse(409, { place: 'seq', message: `the plan is at change ${current.seq}, not ${form.seq}` });
  }
  const derived = derive(device, current.plan);
  if (!derived.ok) return refuse(400, ...derived.problems);
  const files = generateFiles(target, derived.value);
  await recordExport(id, {
    seq: current.seq,
    target: target.id,
    fingerprint: derived.value.fingerprint,
    files,
  });
  return answer({ last: await lastExport(id, target.id) }, 201);
});
