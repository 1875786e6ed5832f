import { createPlan, listPlans } from '@/server/plans';
import { newPlanForm } from '../forms';
import { answer, readForm, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

export const GET = route(async () => answer({ plans: await listPlans() }));

export const POST = route(async (request) => {
  const form = await readForm(request, newPlanForm);
  const created = await createPlan(form.name.trim(), form.device, form.package);
  return created.ok ? answer({ id: created.value }, 201) : refuse(400, ...created.problems);
});
