import { noSessionCookie } from '@/server/people/cookie';
import { endSessions } from '@/server/people/sessions';
import { personNow, whoNow } from '@/server/people/who';
import { answer, route } from '../http';

/** Ends the session that asks. */
export const POST = route(async () => {
  await endSessions(personNow() ?? '', { only: whoNow().session ?? '' });
  const gone = answer({});
  gone.headers.append('set-cookie', noSessionCookie());
  return gone;
});
