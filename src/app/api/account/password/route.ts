import { passwordForm } from '@/server/forms/forms';
import { changePassword } from '@/server/people/accounts';
import { personNow, whoNow } from '@/server/people/who';
import { answer, readForm, refuse, route } from '../../http';

/** Sets another password, and ends what lets in elsewhere: other sessions, and access tokens. */
export const PUT = route(async (request) => {
  const form = await readForm(request, passwordForm);
  const { address = '', session = '' } = whoNow();
  const changed = await changePassword(personNow() ?? '', form, { address, session });
  return changed.ok ? answer({}) : refuse(400, ...changed.problems);
});
