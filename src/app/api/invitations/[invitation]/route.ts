import { withdrawInvitation } from '@/server/people/invitations';
import { workspaceNow } from '@/server/people/who';
import { answer, notFound, route } from '../../http';

export const DELETE = route<{ invitation: string }>(async (_request, { invitation }) =>
  (await withdrawInvitation(workspaceNow(), invitation))
    ? answer({ id: invitation })
    : notFound('invitation'),
);
