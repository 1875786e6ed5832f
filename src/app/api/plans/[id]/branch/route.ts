import { momentForm } from '@/server/forms/forms';
import { branchPlan } from '@/server/history';
import { answer, notFound, readForm, refuse, route } from '../../../http';

/** A new plan that begins as this one was behind an edit. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { seq } = await readForm(request, momentForm);
  const made = await branchPlan(id, seq);
  if (!made) return notFound('moment');
  return made.ok ? answer({ id: made.value }, 201) : refuse(409, ...made.problems);
});
