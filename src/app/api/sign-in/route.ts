import { signIn } from '@/server/people/accounts';
import { note } from '@/server/people/audit';
import { sessionCookie } from '@/server/people/cookie';
import { startSession } from '@/server/people/sessions';
import { whoNow } from '@/server/people/who';
import { signInForm } from '../forms';
import { answer, readForm, refuse, route } from '../http';

/**
 * Signs in by address and password: 200, `id` and a cookie; 200, `id: null` and the problems when one of both is wrong, which is no
 * failure of the request; 429 when it was tried too often.
 */
export const POST = route(async (request) => {
  const { email, password } = await readForm(request, signInForm);
  const { address = '' } = whoNow();
  const found = await signIn(email.trim(), password, address);
  if (!found.ok) {
    note(
      { workspace: '', via: 'nobody' },
      { action: 'sign-in refused', target: email, status: found.tooOften ? 429 : 401 },
    );
    return found.tooOften ? refuse(429, ...found.problems) : answer({ id: null, problems: found.problems });
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
