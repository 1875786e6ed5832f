import { revisionForm } from '@/server/forms/forms';
import { keepRevision, listRevisions } from '@/server/history';
import { planIsThere } from '@/server/plans';
import { answer, notFound, readForm, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) =>
  (await planIsThere(id)) ? answer({ revisions: await listRevisions(id) }) : notFound('plan'),
);

/** Keeps the plan as it was behind an edit, under the revision that it says it is. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const kept = await keepRevision(id, await readForm(request, revisionForm));
  if (!kept) return notFound('moment');
  return kept.ok ? answer({ revision: kept.value }, 201) : refuse(409, ...kept.problems);
});
