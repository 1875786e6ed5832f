import { fingerprintOf } from '../base/fingerprint';
import { spelledFirst } from './migrations';
import type { DeviceDescription } from './types';

/**
 * Tells contents of descriptions apart. Where a datum was read does not count, nor who corrected it when; the order of ports
 * and of value tables does, for it decides what they mean. How a format spells a word does not, nor how the text is
 * written. Corrections must have been applied before.
 */
export function fingerprintOfDescription(description: DeviceDescription): string {
  const { corrections: _applied, text: _written, ...rest } = description;
  const { ports, encode } = rest.recipe;
  const ordered = [Object.keys(ports), encode.map((rule) => Object.keys(rule.table))];
  return fingerprintOf({ ...(withoutSources(spelledFirst(rest)) as object), ordered });
}

/** A copy without the keys that say where something was read: objects called `source` that name a document. */
function withoutSources(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutSources);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).filter(([key, item]) => !(key === 'source' && isSource(item)));
  return Object.fromEntries(entries.map(([key, item]) => [key, withoutSources(item)]));
}

const isSource = (item: unknown): boolean =>
  typeof item === 'object' && item !== null && typeof (item as { document?: unknown }).document === 'string';
