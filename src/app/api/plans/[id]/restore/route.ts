import { setDeleted } from '@/server/plans';
import { answer, notFound, route } from '../../../http';

export const POST = route<{ id: string }>(async (_request, { id }) =>
  (await setDeleted(id, false)) ? answer({ id }) : notFound('deleted plan'),
);
