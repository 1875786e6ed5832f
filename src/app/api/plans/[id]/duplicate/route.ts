import { duplicatePlan } from '@/server/plans';
import { answer, notFound, refuse, route } from '../../../http';

export const POST = route<{ id: string }>(async (_request, { id }) => {
  const copy = await duplicatePlan(id);
  if (!copy) return notFound('plan');
  return copy.ok ? answer({ id: copy.value }, 201) : refuse(400, ...copy.problems);
});
