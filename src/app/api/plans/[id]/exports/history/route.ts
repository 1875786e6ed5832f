import { exportHistory } from '@/server/exports';
import { readPlan } from '@/server/plans';
import { answer, notFound, route } from '../../../../http';

export const dynamic = 'force-dynamic';

/** What was taken away of the plan's code so far, newest first. */
export const GET = route<{ id: string }>(async (_request, { id }) => {
  if (!(await readPlan(id))) return notFound('plan');
  return answer({ exports: await exportHistory(id) });
});
