import { personForm } from '@/server/forms/forms';
import { meOf, renamePerson } from '@/server/people/accounts';
import { noSessionCookie } from '@/server/people/cookie';
import { deletePerson } from '@/server/people/delete-person';
import { personNow, whoNow } from '@/server/people/who';
import { answer, notFound, readForm, refuse, route } from '../http';

export const dynamic = 'force-dynamic';

/** Who asks, their role, and the workspaces that they are in. */
export const GET = route(async () => {
  const me = await meOf(whoNow());
  return me ? answer({ me }) : notFound('account');
});

export const PATCH = route(async (request) => {
  const { name } = await readForm(request, personForm);
  const renamed = await renamePerson(personNow() ?? '', name.trim());
  return renamed.ok ? answer({ name: name.trim() }) : refuse(409, ...renamed.problems);
});

/** Deletes one's own account; what one did stays under a pseudonym. */
export const DELETE = route(async () => {
  const { noted } = whoNow();
  const deleted = await deletePerson(personNow() ?? '');
  if (!deleted.ok) return refuse(409, ...deleted.problems);
  if (noted) Object.assign(noted, { person: { id: personNow(), name: deleted.value } });
  const gone = answer({ name: deleted.value });
  gone.headers.append('set-cookie', noSessionCookie());
  return gone;
});
