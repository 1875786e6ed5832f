import { readPlan, setDeleted } from '@/server/plans';
import { answer, notFound, route } from '../../http';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) => {
  const current = await readPlan(id);
  return current ? answer(current) : notFound('plan');
});

export const DELETE = route<{ id: string }>(async (_request, { id }) =>
  (await setDeleted(id, true)) ? answer({ id }) : notFound('plan'),
);
