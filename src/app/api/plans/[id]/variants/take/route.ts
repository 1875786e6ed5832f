import { takeForm } from '@/server/forms/forms';
import { takeOver } from '@/server/variants';
import { answer, notFound, readForm, refuse, route } from '../../../../http';

/** Makes a net of this plan what it is in another variant: all that is shared of it, or one field. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { field, ...rest } = await readForm(request, takeForm);
  const done = await takeOver(id, { ...rest, ...(field === undefined ? {} : { field }) });
  if (!done) return notFound('plan');
  return done.ok ? answer({ id }) : refuse(409, ...done.problems);
});
