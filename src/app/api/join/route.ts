import { joinForm } from '@/server/forms/forms';
import { join } from '@/server/people/accounts';
import { countAccount, countAddress } from '@/server/people/attempts';
import { deviceCookie, sessionCookie } from '@/server/people/cookie';
import { rememberDevice } from '@/server/people/devices';
import { invitationOf } from '@/server/people/invitations';
import { startSession } from '@/server/people/sessions';
import { whoNow } from '@/server/people/who';
import { answer, readForm, refuse, route } from '../http';

/** Makes an account by an invitation, and signs in. */
export const POST = route(async (request) => {
  const { address = '', noted } = whoNow();
  const counted = await countAddress(address);
  if (!counted.ok) return refuse(429, ...counted.problems);
  const form = await readForm(request, joinForm);
  const free = await countAccount(`invitation ${form.key.slice(0, 20)}`);
  if (!free.ok) return refuse(429, ...free.problems);
  const invitation = await invitationOf(form.key);
  const name = form.name.trim();
  const joined = await join(form.key, { name, password: form.password });
  if (!joined.ok) return refuse(400, ...joined.problems);
  if (noted)
    Object.assign(noted, {
      via: 'invitation',
      workspace: invitation?.workspace,
      target: name,
      person: { id: joined.value, name },
    });
  const secret = await startSession(joined.value, request.headers.get('user-agent') ?? '');
  const signed = answer({ id: joined.value }, 201);
  signed.headers.append('set-cookie', sessionCookie(secret));
  signed.headers.append('set-cookie', deviceCookie(await rememberDevice(joined.value, undefined)));
  return signed;
});
