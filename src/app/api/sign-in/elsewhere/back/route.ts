import { note } from '@/server/people/audit';
import { noStateCookie, sessionCookie, stateIn } from '@/server/people/cookie';
import { endElsewhere } from '@/server/people/oidc';
import { startSession } from '@/server/people/sessions';
import { oidcTitle, ownAddress } from '@/server/people/settings';
import { notFound, redirect, route } from '../../../http';

export const dynamic = 'force-dynamic';

/** Somebody comes back from the service that they signed in at: with a session, or with the reason why not. */
export const GET = route(async (request) => {
  if (oidcTitle() === undefined) return notFound('other service');
  const own = ownAddress(request.headers.get('host'));
  const { search } = new URL(request.url);
  const found = await endElsewhere(own, search, stateIn(request.headers.get('cookie')));
  if (!found.ok) {
    const why = found.problems[0]?.message ?? '';
    note({ workspace: '', via: 'service' }, { action: 'sign-in refused', target: why, status: 401 });
    return redirect(`/sign-in?why=${encodeURIComponent(why)}`, noStateCookie());
  }
  const { id, name, next } = found.value;
  const secret = await startSession(id, request.headers.get('user-agent') ?? '');
  note(
    { workspace: '', via: 'service', person: { id, name } },
    { action: 'signed in', target: '', status: 200 },
  );
  return redirect(next, noStateCookie(), sessionCookie(secret));
});
