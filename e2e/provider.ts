import { createServer, type Server } from 'node:http';
import { exportJWK, generateKeyPair, type JWK, SignJWT } from 'jose';

/**
 * A small stand-in for an OpenID Connect service: discovery, authorization with PKCE, tokens, keys. Who signs in is whoever the test
 * says; `spoil` makes it answer wrongly, as a service or somebody in between might.
 */
export interface Provider {
  person: { sub: string; email: string; email_verified?: boolean; name?: string };
  spoil?: 'signature' | 'audience' | 'issuer' | 'nonce' | 'expired';
  /** What was asked for at the token endpoint. */
  asked: URLSearchParams[];
  close(): Promise<void>;
}

export async function startProvider(address: string, person: Provider['person']): Promise<Provider> {
  const keys = await generateKeyPair('RS256');
  const others = await generateKeyPair('RS256');
  const jwk: JWK = { ...(await exportJWK(keys.publicKey)), kid: 'one', alg: 'RS256', use: 'sig' };
  const codes = new Map<string, { nonce: string; challenge: string; redirect: string }>();
  const provider: Provider = {
    person,
    asked: [],
    close: () => new Promise((done) => void server.close(() => done())),
  };

  async function idToken(nonce: string): Promise<string> {
    const { spoil } = provider;
    return new SignJWT({ ...provider.person, nonce: spoil === 'nonce' ? 'another' : nonce })
      .setProtectedHeader({ alg: 'RS256', kid: 'one' })
      .setIssuer(spoil === 'issuer' ? 'http://elsewhere.example' : address)
      .setAudience(spoil === 'audience' ? 'somebody else' : 'mavrek')
      .setSubject(provider.person.sub)
      .setIssuedAt()
      .setExpirationTime(spoil === 'expired' ? '-1h' : '5m')
      .sign(spoil === 'signature' ? others.privateKey : keys.privateKey);
  }

  const server: Server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', address);
    const json = (status: number, body: object) => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(JSON.stringify(body));
    };
    if (url.pathname === '/.well-known/openid-configuration')
      return json(200, {
        issuer: address,
        authorization_endpoint: `${address}/authorize`,
        token_endpoint: `${address}/token`,
        jwks_uri: `${address}/keys`,
        response_types_supported: ['code'],
        subject_types_supported: ['public'],
        id_token_signing_alg_values_supported: ['RS256'],
        code_challenge_methods_supported: ['S256'],
        token_endpoint_auth_methods_supported: ['client_secret_post', 'client_secret_basic'],
      });
    if (url.pathname === '/keys') return json(200, { keys: [jwk] });
    if (url.pathname === '/authorize') {
      const asked = url.searchParams;
      const code = crypto.randomUUID();
      const redirect = asked.get('redirect_uri') ?? '';
      codes.set(code, {
        nonce: asked.get('nonce') ?? '',
        challenge: asked.get('code_challenge') ?? '',
        redirect,
      });
      const back = new URL(redirect);
      back.searchParams.set('code', code);
      back.searchParams.set('state', asked.get('state') ?? '');
      response.writeHead(302, { location: back.href });
      return response.end();
    }
    if (url.pathname === '/token') {
      let text = '';
      request.on('data', (piece) => {
        text += piece;
      });
      request.on('end', async () => {
        const form = new URLSearchParams(text);
        provider.asked.push(form);
        const known = codes.get(form.get('code') ?? '');
        codes.delete(form.get('code') ?? '');
        const digest = await crypto.subtle.digest(
          'SHA-256',
          new TextEncoder().encode(form.get('code_verifier') ?? ''),
        );
        const challenge = Buffer.from(digest).toString('base64url');
        const secret =
          form.get('client_secret') ??
          decodeURIComponent(
            Buffer.from((request.headers.authorization ?? '').slice(6), 'base64')
              .toString()
              .split(':')[1] ?? '',
          ).replaceAll('+', ' ');
        if (
          !known ||
          known.challenge !== challenge ||
          known.redirect !== form.get('redirect_uri') ||
          secret !== 'between the two of us'
        )
          return json(400, { error: 'invalid_grant' });
        return json(200, {
          access_token: 'x',
          token_type: 'Bearer',
          expires_in: 60,
          id_token: await idToken(known.nonce),
        });
      });
      return undefined;
    }
    return json(404, {});
  });
  const { hostname, port } = new URL(address);
  await new Promise<void>((done) => server.listen(Number(port), hostname, done));
  return provider;
}
