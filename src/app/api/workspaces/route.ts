import { workspaceForm } from '@/server/forms/forms';
import { enterWorkspace } from '@/server/people/sessions';
import { personNow, whoNow } from '@/server/people/who';
import { makeWorkspace } from '@/server/people/workspaces';
import { answer, readForm, refuse, route } from '../http';

/** Makes a workspace of one's own, with the shipped parts, and goes there. */
export const POST = route(async (request) => {
  const { name } = await readForm(request, workspaceForm);
  const made = await makeWorkspace(personNow() ?? '', name.trim());
  if (!made.ok) return refuse(409, ...made.problems);
  const { session, noted } = whoNow();
  if (noted) Object.assign(noted, { workspace: made.value, target: name.trim() });
  if (session !== undefined) await enterWorkspace(session, made.value);
  return answer({ id: made.value }, 201);
});
