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
  const begun = await beginElsewhere(ownAddress(request.headers.get('host')), next);
  if (!begun.ok) return redirect(`/sign-in?why=${encodeURIComponent(begun.problems[0]?.message ?? '')}`);
  return redirect(begun.value.to, stateCookie(begun.value.state));
});
