import { createHash, randomBytes } from 'node:crypto';

/** Something that lets whoever has it in: 256 bits by chance. Only its digest is kept, so that a copy of the database opens nothing. */
export const newSecret = (): string => randomBytes(32).toString('base64url');
export const digestOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');
