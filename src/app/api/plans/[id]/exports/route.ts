import { targetById } from '@/core/output/targets';
import { lastExport, recordExport } from '@/server/exports';
import { exportForm } from '@/server/forms/forms';
import { workOnPart } from '@/server/parts';
import { planOnPart } from '@/server/plan-on-part';
import { readPlan } from '@/server/plans';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (request, { id }) => {
  if (!(await readPlan(id))) return notFound('plan');
  const target = new URL(request.url).searchParams.get('target') ?? undefined;
  return answer({ last: (await lastExport(id, target)) ?? null });
});

/** Remembers that the code of revision `seq` was taken away. Refused when the plan has moved on since. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const form = await readForm(request, exportForm);
  const target = targetById(form.target);
  if (!target) return refuse(400, { place: 'target', message: `there is no target "${form.target}"` });
  const current = await planOnPart(id);
  if (!current) return notFound('plan');
  if (current.seq !== form.seq) {
    return refuse(409, { place: 'seq', message: `the plan is at change ${current.seq}, not ${form.seq}` });
  }
  const generated = await workOnPart('generate', current.part, { plan: current.plan, target: target.id });
  if (!generated.ok) return refuse(400, ...generated.problems);
  await recordExport(id, {
    seq: current.seq,
    target: target.id,
    revision: current.plan.revision,
    options: current.plan.code,
    ...generated.value,
  });
  return answer({ last: await lastExport(id, target.id) }, 201);
});
