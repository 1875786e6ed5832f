import { readRevision } from '@/server/history';
import { planIsThere } from '@/server/plans';
import { answer, notFound, route } from '../../../../http';

export const dynamic = 'force-dynamic';

/** A revision whole: its plan, findings and files, as they were. */
export const GET = route<{ id: string; name: string }>(async (_request, { id, name }) => {
  const revision = (await planIsThere(id)) && (await readRevision(id, name));
  return revision ? answer(revision) : notFound('revision');
});
