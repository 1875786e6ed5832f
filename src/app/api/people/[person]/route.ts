import { deletePerson, ownsAllOf } from '@/server/people/delete-person';
import { personNow, workspaceNow } from '@/server/people/who';
import { listMembers } from '@/server/people/workspaces';
import { answer, notFound, refuse, route } from '../../http';

/** Deletes somebody's account; what they did stays under a pseudonym. Only for who owns every workspace that they are in. */
export const DELETE = route<{ person: string }>(async (_request, { person }) => {
  if (!(await listMembers(workspaceNow())).some(({ id }) => id === person)) return notFound('member');
  if (!(await ownsAllOf(personNow() ?? '', person)))
    return refuse(409, {
      place: 'person',
      message: 'is in workspaces that you do not own; take them out of yours instead',
    });
  const deleted = await deletePerson(person);
  return deleted.ok ? answer({ id: person, name: deleted.value }) : refuse(409, ...deleted.problems);
});
