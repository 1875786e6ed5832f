import { presenceForm } from '@/server/forms/forms';
import { signedName } from '@/server/people/who';
import { planIsThere } from '@/server/plans';
import { saysPresence } from '@/server/presence';
import { answer, notFound, readForm, route } from '../../../http';

/** Somebody is at a place in the plan, or has left it. Said again every few seconds; forgotten when it is not. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { left, ...present } = await readForm(request, presenceForm);
  if (!left && !(await planIsThere(id))) return notFound('plan');
  saysPresence(id, { ...present, author: signedName(present.author) }, left);
  return answer({});
});
