import { removeProfile } from '@/server/profiles';
import { answer, notFound, route } from '../../http';

export const DELETE = route<{ id: string }>(async (_request, { id }) =>
  (await removeProfile(id)) ? answer({ id }) : notFound('profile'),
);
