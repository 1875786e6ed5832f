import { importForm } from '@/server/forms/forms';
import { storePlan } from '@/server/plans';
import { work } from '@/server/work/pool';
import { answer, readForm, route } from '../../http';

/**
 * A plan file becomes a new plan: 201 and its id. A file that is wrong anywhere becomes none: 200, `id: null` and the problems.
 * That is an answer about the file, not a failure of the request, and browsers report failures on their console.
 */
export const POST = route(async (request) => {
  const form = await readForm(request, importForm);
  const plan = await work('readPlan', { name: form.fileName, text: form.text });
  if (!plan.ok) return answer({ id: null, problems: plan.problems });
  const stored = await storePlan(plan.value);
  if (stored.ok) return answer({ id: stored.value }, 201);
  const problems = stored.problems.map((one) => ({ ...one, place: `${form.fileName}, ${one.place}` }));
  return answer({ id: null, problems });
});
