import { planAt } from '@/server/history';
import { answer, notFound, route } from '../../../../http';

export const dynamic = 'force-dynamic';

/** The plan as it was behind an edit; 0 for as it was made. */
export const GET = route<{ id: string; seq: string }>(async (_request, { id, seq }) => {
  const then = /^\d{1,15}$/.test(seq) ? await planAt(id, Number(seq)) : undefined;
  return then ? answer(then) : notFound('moment');
});
