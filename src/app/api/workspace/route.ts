import { workspaceForm } from '@/server/forms/forms';
import { workspaceNow } from '@/server/people/who';
import { renameWorkspace } from '@/server/people/workspaces';
import { answer, readForm, route } from '../http';

export const PATCH = route(async (request) => {
  const { name } = await readForm(request, workspaceForm);
  await renameWorkspace(workspaceNow(), name.trim());
  return answer({ name: name.trim() });
});
