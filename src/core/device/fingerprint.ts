import { fingerprintOf } from '../fingerprint';
import type { DeviceDescription } from './types';

/**
 * Tells contents of descriptions apart. Where a datum was read does not count, nor who corrected it when; the order of ports
 * and of value tables does, for it decides what they mean. Corrections must have been laid over before.
 */
export function fingerprintOfDescription(description: DeviceDescription): string {
  const { corrections: _laidOver, source: _source, ...rest } = description;
  const bare = <T extends { source?: unknown }>({ source: _own, ...item }: T) => item;
  return fingerprintOf({
    ...rest,
    pads: rest.pads.map(bare),
    functions: rest.functions.map(bare),
    padClasses: Object.entries(rest.padClasses)
      .map(([id, one]) => [id, bare(one)])
      .sort(([a], [b]) => (String(a) < String(b) ? -1 : 1)),
    ordered: [Object.keys(rest.recipe.ports), rest.recipe.encode.map((rule) => Object.keys(rule.table))],
  });
}
