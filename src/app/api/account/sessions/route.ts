import { noSessionCookie } from '@/server/people/cookie';
import { endSessions, listSessions } from '@/server/people/sessions';
import { personNow, whoNow } from '@/server/people/who';
import { answer, route } from '../../http';

export const dynamic = 'force-dynamic';

/** Where one is signed in. */
export const GET = route(async () =>
  answer({ sessions: await listSessions(personNow() ?? '', whoNow().session ?? '') }),
);

/** Signs out everywhere, here too. */
export const DELETE = route(async () => {
  await endSessions(personNow() ?? '');
  const gone = answer({});
  gone.headers.append('set-cookie', noSessionCookie());
  return gone;
});
