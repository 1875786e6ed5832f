import { changePassword } from '@/server/people/accounts';
import { endSessions } from '@/server/people/sessions';
import { personNow, whoNow } from '@/server/people/who';
import { passwordForm } from '../../forms';
import { answer, readForm, refuse, route } from '../../http';

/** Sets another password, and signs out everywhere else. */
export const PUT = route(async (request) => {
  const form = await readForm(request, passwordForm);
  const { address = '', session } = whoNow();
  const person = personNow() ?? '';
  const changed = await changePassword(person, form, address);
  if (!changed.ok) return refuse(400, ...changed.problems);
  await endSessions(person, { butNot: session ?? '' });
  return answer({});
});
