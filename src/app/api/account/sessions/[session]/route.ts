import { endSessions } from '@/server/people/sessions';
import { personNow } from '@/server/people/who';
import { answer, notFound, route } from '../../../http';

export const DELETE = route<{ session: string }>(async (_request, { session }) =>
  (await endSessions(personNow() ?? '', { only: session })) ? answer({ id: session }) : notFound('session'),
);
