import { roleForm } from '@/server/forms/forms';
import { whoNow, workspaceNow } from '@/server/people/who';
import { removeMember, setRole } from '@/server/people/workspaces';
import { answer, notFound, readForm, refuse, route } from '../../http';

export const PATCH = route<{ person: string }>(async (request, { person }) => {
  const { role } = await readForm(request, roleForm);
  const done = await setRole(workspaceNow(), person, role);
  if (!done) return notFound('member');
  const { noted } = whoNow();
  if (noted) noted.target = `${person} ${role}`;
  return done.ok ? answer({ id: person, role }) : refuse(409, ...done.problems);
});

/** Takes somebody out of the workspace; their account stays. */
export const DELETE = route<{ person: string }>(async (_request, { person }) => {
  const done = await removeMember(workspaceNow(), person);
  if (!done) return notFound('member');
  return done.ok ? answer({ id: person }) : refuse(409, ...done.problems);
});
