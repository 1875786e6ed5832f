import { sha256Hex } from '../../base/fingerprint';
import type { GeneratedFile } from './types';

/** Files by size (bytes of UTF-8) and SHA-256. */
export const identifyFiles = (files: readonly GeneratedFile[]) =>
  files.map(({ path, text }) => ({
    path,
    bytes: new TextEncoder().encode(text).length,
    sha256: sha256Hex(text),
  }));
