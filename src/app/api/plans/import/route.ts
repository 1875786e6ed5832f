import { parsePlan } from '@/core/formats/plan-file';
import { storePlan } from '@/server/plans';
import { importForm } from '../../forms';
import { answer, readForm, refuse, route } from '../../http';

/** A plan file becomes a new plan; a file that is wrong anywhere becomes none. */
export const POST = route(async (request) => {
  const form = await readForm(request, importForm);
  const plan = parsePlan(form.fileName, form.text);
  if (!plan.ok) return refuse(400, ...plan.problems);
  const stored = await storePlan(plan.value);
  return stored.ok
    ? answer({ id: stored.value }, 201)
    : refuse(400, ...stored.problems.map((one) => ({ ...one, place: `${form.fileName}, ${one.place}` })));
});
