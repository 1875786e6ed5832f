import { signInForm } from '@/server/forms/forms';
import { signIn } from '@/server/people/accounts';
import { countAddress } from '@/server/people/attempts';
import { note } from '@/server/people/audit';
import { deviceCookie, deviceIn, sessionCookie } from '@/server/people/cookie';
import { knownDevice, rememberDevice } from '@/server/people/devices';
import { startSession } from '@/server/people/sessions';
import { whoNow } from '@/server/people/who';
import { answer, readForm, refuse, route } from '../http';

/**
 * Signs in by address and password: 200, `id` and a cookie; 200, `id: null` and the problems when one of both is wrong, which is no
 * failure of the request; 429 when it was tried too often.
 */
export const POST = route(async (request) => {
  const { address = '' } = whoNow();
  const device = deviceIn(request.headers.get('cookie'));
  // Tries are counted before what is sent is looked at. A browser that somebody has signed in with is counted by itself later.
  const free = await countAddress(address);
  if (!free.ok && device === undefined) return refuse(429, ...free.problems);
  const { email, password } = await readForm(request, signInForm);
  if (!free.ok && (await knownDevice(email.trim(), device)) === undefined)
    return refuse(429, ...free.problems);
  const found = await signIn(email.trim(), password, { address, device });
  if (!found.ok) {
    note(
      { workspace: '', via: 'nobody' },
      { action: 'sign-in refused', target: email, status: found.tooOften ? 429 : 401 },
    );
    return found.tooOften ? refuse(429, ...found.problems) : answer({ id: null, problems: found.problems });
  }
  const secret = await startSession(found.value.id, request.headers.get('user-agent') ?? '');
  const known = await rememberDevice(found.value.id, device);
  note(
    { workspace: '', via: 'password', person: found.value },
    { action: 'signed in', target: '', status: 200 },
  );
  const signed = answer({ id: found.value.id });
  signed.headers.append('set-cookie', sessionCookie(secret));
  signed.headers.append('set-cookie', deviceCookie(known));
  return signed;
});
