import { signIn } from '@/server/people/accounts';
import { note } from '@/server/people/audit';
import { sessionCookie } from '@/server/people/cookie';
import { startSession } from '@/server/people/sessions';
import { whoNow } from '@/server/people/who';
import { signInForm } from '../forms';
import { answer, readForm, refuse, route } from '../http';

/** Signs in by address and password: 200 and a cookie; 401 when they are wrong, 429 when it was tried too often. */
export const POST = route(async (request) => {
  const { email, password } = await readForm(request, signInForm);
  const { address = '' } = whoNow();
  const found = await signIn(email.trim(), password, address);
  if (!found.ok) {
    const status = found.tooOften ? 429 : 401;
    note({ workspace: '', via: 'nobody' }, { action: 'sign-in refused', target: email, status });
    return refuse(status, ...found.problems);
  }
  const secret = await startSession(found.value.id, request.headers.get('user-agent') ?? '');
  note(
    { workspace: '', via: 'password', person: found.value },
    { action: 'signed in', target: '', status: 200 },
  );
  const signed = answer({ id: found.value.id });
  signed.headers.append('set-cookie', sessionCookie(secret));
  return signed;
});
