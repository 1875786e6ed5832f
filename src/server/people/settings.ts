import { authOn } from './who';

/** What the environment says of signing in; see docs/deploy.md. */
interface AuthSettings {
  /** Where people reach the server: `https://pins.example.org`. Undefined: by the name that they ask for. */
  url: string | undefined;
  oidc: { issuer: URL; client: string; secret: string; title: string } | undefined;
  /** Behind a proxy of one's own, which says for whom it asks. */
  proxied: boolean;
}

/** What the environment says cannot be; trying again does not help. */
export class WrongSettings extends Error {}

const LOOPBACK = ['localhost', '127.0.0.1', '::1', '[::1]'];
const isLoopback = (host: string): boolean => LOOPBACK.includes(host);

/** Throws, for people to read, when sign-in could not be kept safe that way. */
export function authSettings(env: NodeJS.ProcessEnv = process.env): AuthSettings {
  const { MAVREK_AUTH, MAVREK_URL, MAVREK_OIDC_ISSUER, MAVREK_OIDC_CLIENT, MAVREK_OIDC_SECRET } = env;
  if (MAVREK_AUTH !== undefined && !['on', 'off', ''].includes(MAVREK_AUTH))
    throw new WrongSettings(`MAVREK_AUTH is "${MAVREK_AUTH}"; it is on or off`);
  const url = MAVREK_URL || undefined;
  if (url !== undefined && !(URL.canParse(url) && /^https?:$/.test(new URL(url).protocol)))
    throw new WrongSettings(`MAVREK_URL is "${url}"; it is an address such as https://pins.example.org`);
  const host = env.HOST ?? '127.0.0.1';
  if (MAVREK_AUTH === 'on') {
    const open =
      url === undefined
        ? !isLoopback(host)
        : new URL(url).protocol === 'http:' && !isLoopback(new URL(url).hostname);
    // Passwords and cookies would be there to read for everybody on the way.
    if (open)
      throw new WrongSettings(
        'with MAVREK_AUTH=on, people reach Mavrek by HTTPS: put a proxy with a certificate before it and set MAVREK_URL=https://…',
      );
  }
  let oidc: AuthSettings['oidc'];
  if (MAVREK_OIDC_ISSUER) {
    if (!MAVREK_OIDC_CLIENT || !MAVREK_OIDC_SECRET)
      throw new WrongSettings('MAVREK_OIDC_ISSUER needs MAVREK_OIDC_CLIENT and MAVREK_OIDC_SECRET');
    if (!URL.canParse(MAVREK_OIDC_ISSUER)) throw new WrongSettings('MAVREK_OIDC_ISSUER is no address');
    const issuer = new URL(MAVREK_OIDC_ISSUER);
    if (issuer.protocol !== 'https:' && !isLoopback(issuer.hostname))
      throw new WrongSettings('MAVREK_OIDC_ISSUER must begin with https://');
    oidc = {
      issuer,
      client: MAVREK_OIDC_CLIENT,
      secret: MAVREK_OIDC_SECRET,
      title: env.MAVREK_OIDC_NAME || issuer.hostname,
    };
  }
  return { url: url?.replace(/\/+$/, ''), oidc, proxied: env.MAVREK_PROXY === 'on' };
}

/** The address of this server as whoever asks knows it; the gate has checked the name. */
export const ownAddress = (host: string | null): string =>
  authSettings().url ?? `http://${host ?? 'localhost'}`;

export const oidcTitle = (): string | undefined => (authOn() ? authSettings().oidc?.title : undefined);
