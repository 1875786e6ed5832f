import { ownPage } from '@/core/people/own-page';
import { stateCookie } from '@/server/people/cookie';
import { beginElsewhere } from '@/server/people/oidc';
import { oidcTitle, ownAddress } from '@/server/people/settings';
import { notFound, redirect, route } from '../../http';

export const dynamic = 'force-dynamic';

/** Sends somebody to the service that they sign in at; `?next=` is the page that they wanted. */
export const GET = route(async (request) => {
  if (oidcTitle() === undefined) return notFound('other service');
  const next = ownPage(new URL(request.url).searchParams.get('next'));
  const { to, state } = await beginElsewhere(ownAddress(request.headers.get('host')), next);
  return redirect(to, stateCookie(state));
});
