import { join } from '@/server/people/accounts';
import { countAttempt } from '@/server/people/attempts';
import { sessionCookie } from '@/server/people/cookie';
import { invitationOf } from '@/server/people/invitations';
import { startSession } from '@/server/people/sessions';
import { whoNow } from '@/server/people/who';
import { joinForm } from '../forms';
import { answer, readForm, refuse, route } from '../http';

/** Makes an account by an invitation, and signs in. */
export const POST = route(async (request) => {
  const form = await readForm(request, joinForm);
  const { address = '', noted } = whoNow();
  const free = await countAttempt(`invitation ${form.key.slice(0, 20)}`, address);
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
  return signed;
});
