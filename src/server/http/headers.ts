import { randomBytes } from 'node:crypto';

/** A number used once: scripts in a page that carry it are ours. */
export const newNonce = (): string => randomBytes(16).toString('base64');

/**
 * What a page may do: scripts from here only, those in the page itself only with the nonce; nobody may frame it, and nothing is
 * sent to or fetched from elsewhere. Style attributes are allowed, since the interface sets widths by them.
 */
export const contentPolicy = (nonce: string): string =>
  [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "manifest-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
  ].join('; ');

/** On every answer, whatever it is. */
export const FIXED_HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'same-origin',
  'x-frame-options': 'DENY',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
};
