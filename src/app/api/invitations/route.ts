import { invitationForm } from '@/server/forms/forms';
import { invite, listInvitations } from '@/server/people/invitations';
import { ownAddress } from '@/server/people/settings';
import { personNow, whoNow, workspaceNow } from '@/server/people/who';
import { answer, readForm, route } from '../http';

export const dynamic = 'force-dynamic';

/** Invitations that nobody has taken yet. */
export const GET = route(async () => answer({ invitations: await listInvitations(workspaceNow()) }));

/** Invites somebody: the link is told this once, to be sent to them. */
export const POST = route(async (request) => {
  const { email, role } = await readForm(request, invitationForm);
  const { id, key } = await invite(workspaceNow(), { email, role, by: personNow() });
  const { noted } = whoNow();
  if (noted) noted.target = `${email} ${role}`;
  return answer({ id, link: `${ownAddress(request.headers.get('host'))}/join/${key}` }, 201);
});
