import { planHistory } from '@/server/history';
import { answer, notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** Edits in words, newest first, a page at a time: `?before=SEQ` for older ones. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const before = new URL(request.url).searchParams.get('before');
  if (before !== null && !/^\d{1,15}$/.test(before))
    return refuse(400, { place: 'before', message: 'must be a whole number' });
  const history = await planHistory(id, before === null ? undefined : Number(before));
  return history ? answer(history) : notFound('plan');
});
