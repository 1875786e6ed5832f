import { workOnPart } from '@/server/parts';
import { momentIn, planOnPart } from '@/server/plan-on-part';
import { answer, notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** Counts and findings of the plan, as the command line gives them. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const current = await planOnPart(id, momentIn(request.url));
  if (!current) return notFound('plan');
  const report = await workOnPart('check', current.part, { plan: current.plan });
  return report.ok ? answer(report.value) : refuse(409, ...report.problems);
});
