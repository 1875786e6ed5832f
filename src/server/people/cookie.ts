import { parseCookie, stringifySetCookie } from 'cookie';
import { DEVICE_SECONDS } from './devices';
import { SESSION_SECONDS } from './sessions';
import { authSettings } from './settings';

/** Cookies of our own: for this server only, out of reach of scripts, over HTTPS wherever that is how people come. */

const secure = (): boolean => authSettings().url?.startsWith('https:') === true;
// The prefix makes browsers refuse a cookie of that name that was set by anybody but this very host over HTTPS.
const nameOf = (what: string): string => (secure() ? `__Host-mavrek-${what}` : `mavrek-${what}`);

function cookie(what: string, value: string, maxAge: number): string {
  return stringifySetCookie({
    name: nameOf(what),
    value,
    maxAge,
    path: '/',
    httpOnly: true,
    sameSite: 'lax',
    secure: secure(),
  });
}

export const sessionCookie = (secret: string): string => cookie('session', secret, SESSION_SECONDS);
export const noSessionCookie = (): string => cookie('session', '', 0);
/** Tells a browser in which somebody has signed in before; it lets nobody in. */
export const deviceCookie = (secret: string): string => cookie('device', secret, DEVICE_SECONDS);
/** Ties a sign-in at another service to the browser that began it. */
export const stateCookie = (state: string): string => cookie('sign-in', state, 600);
export const noStateCookie = (): string => cookie('sign-in', '', 0);

const read = (header: string | null | undefined, what: string): string | undefined =>
  parseCookie(header ?? '')[nameOf(what)] || undefined;
export const sessionIn = (header: string | null | undefined) => read(header, 'session');
export const deviceIn = (header: string | null | undefined) => read(header, 'device');
export const stateIn = (header: string | null | undefined) => read(header, 'sign-in');
