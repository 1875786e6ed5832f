import { newPlanForm } from '@/server/forms/forms';
import { createPlan, listPlans } from '@/server/plans';
import { createFromProfile } from '@/server/profiles';
import { answer, readForm, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

export const GET = route(async (request) =>
  answer({ plans: await listPlans(new URL(request.url).searchParams.get('find') ?? '') }),
);

export const POST = route(async (request) => {
  const form = await readForm(request, newPlanForm);
  const name = form.name.trim();
  const created = form.profile
    ? await createFromProfile(name, form.profile)
    : await createPlan(name, form.device, form.package);
  return created.ok ? answer({ id: created.value }, 201) : refuse(400, ...created.problems);
});
