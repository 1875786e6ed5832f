import { profileForm } from '@/server/forms/forms';
import { listProfiles, saveProfile } from '@/server/profiles';
import { work } from '@/server/work/pool';
import { answer, readForm, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

export const GET = route(async () => answer({ profiles: await listProfiles() }));

/** Keeps the locked nets of a plan file under a name. */
export const POST = route(async (request) => {
  const form = await readForm(request, profileForm);
  const plan = await work('readProfile', { name: 'profile', text: form.text });
  if (!plan.ok) return refuse(400, ...plan.problems);
  const saved = await saveProfile(form.name.trim(), plan.value);
  return saved.ok ? answer({ id: saved.value }, 201) : refuse(400, ...saved.problems);
});
