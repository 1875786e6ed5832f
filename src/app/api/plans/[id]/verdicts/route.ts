import { verdictForm } from '@/server/forms/forms';
import { planIsThere } from '@/server/plans';
import { addVerdict, listVerdicts } from '@/server/review';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) =>
  (await planIsThere(id)) ? answer({ verdicts: await listVerdicts(id) }) : notFound('plan'),
);

/** What a reviewer says of a circuit of a kept revision; nothing is taken back, the last word counts. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const said = await addVerdict(id, await readForm(request, verdictForm));
  if (!said) return notFound('revision');
  return said.ok ? answer({ verdicts: said.value }, 201) : refuse(400, ...said.problems);
});
