import { withdrawToken } from '@/server/people/tokens';
import { personNow } from '@/server/people/who';
import { answer, notFound, route } from '../../../http';

export const DELETE = route<{ token: string }>(async (_request, { token }) =>
  (await withdrawToken(personNow() ?? '', token)) ? answer({ id: token }) : notFound('token'),
);
