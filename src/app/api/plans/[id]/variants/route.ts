import { familyForm } from '@/server/forms/forms';
import { planIsThere } from '@/server/plans';
import { reportOf, setFamily } from '@/server/variants';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** The plans that are variants of this one, and what they do not agree on; null where there are none. */
export const GET = route<{ id: string }>(async (_request, { id }) => {
  if (!(await planIsThere(id))) return notFound('plan');
  const found = await reportOf(id);
  if (!found) return answer({ found: null });
  return found.ok ? answer({ found: found.value }) : refuse(409, ...found.problems);
});

/** Says which plans are variants of this one, and which circuits they share; none: it has no variants any more. */
export const PUT = route<{ id: string }>(async (request, { id }) => {
  if (!(await planIsThere(id))) return notFound('plan');
  const { plans, circuits } = await readForm(request, familyForm);
  const family = await setFamily(id, { plans: plans as string[], circuits: circuits as string[] });
  return family.ok ? answer({ family: family.value }) : refuse(400, ...family.problems);
});
