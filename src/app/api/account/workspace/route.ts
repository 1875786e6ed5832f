import { enterForm } from '@/server/forms/forms';
import { enterWorkspace } from '@/server/people/sessions';
import { personNow, whoNow } from '@/server/people/who';
import { workspacesOf } from '@/server/people/workspaces';
import { answer, notFound, readForm, route } from '../../http';

/** Goes to another workspace that one is in. */
export const PUT = route(async (request) => {
  const { workspace } = await readForm(request, enterForm);
  const { session } = whoNow();
  const own = await workspacesOf(personNow() ?? '');
  if (session === undefined || !own.some(({ id }) => id === workspace)) return notFound('workspace');
  await enterWorkspace(session, workspace);
  return answer({ workspace });
});
