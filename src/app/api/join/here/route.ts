import { joinHereForm } from '@/server/forms/forms';
import { joinAs } from '@/server/people/accounts';
import { enterWorkspace } from '@/server/people/sessions';
import { personNow, whoNow } from '@/server/people/who';
import { answer, readForm, refuse, route } from '../../http';

/** Takes an invitation with the account that one has. */
export const POST = route(async (request) => {
  const { key } = await readForm(request, joinHereForm);
  const joined = await joinAs(key, personNow() ?? '');
  if (!joined.ok) return refuse(400, ...joined.problems);
  const { session, noted } = whoNow();
  if (noted) noted.workspace = joined.value;
  if (session !== undefined) await enterWorkspace(session, joined.value);
  return answer({ workspace: joined.value });
});
