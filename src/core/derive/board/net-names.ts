/** What names of nets in a schematic say: which are the same, which mean that nothing is connected, which are supplies. */

/** Net names as schematics write them differ in case, in a sheet's path and in separators. */
export const sameNetName = (a: string, b: string): boolean => plainNetName(a) === plainNetName(b);

/** `/sheet/tx-en` → `TX_EN`. */
export const plainNetName = (name: string): string =>
  (name.split('/').at(-1) ?? name)
    .toUpperCase()
    .replace(/[^A-Z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '');

export const isUnconnected = (name: string): boolean =>
  /^(|N\/?C|NO_?CONNECT|UNCONNECTED.*)$/i.test(name.trim());

export const saysGround = (name: string): boolean =>
  /^([ADPS]?_?GND|V?SS[AD]?|0V|GROUND)(_?[A-Z]{0,6}\d*)?$/.test(plainNetName(name));

export const saysSupply = (name: string): boolean =>
  voltsIn(name) !== undefined || /^([AD]?V(CC|DD|BAT)|VSUP|VIN)(_?[A-Z0-9]{0,6})?$/.test(plainNetName(name));

/** `+3V3`, `5V`, `VDD_1V8`, `3.3V` → volts; undefined when the name says none. */
export function voltsIn(name: string): number | undefined {
  const match = /(?<![A-Z0-9.,])(\d{1,2})(?:[.,](\d{1,3}))?V(\d{1,3})?(?![A-Z0-9])/.exec(name.toUpperCase());
  if (!match) return undefined;
  const [, whole = '', point, afterV] = match;
  const volts = Number(`${whole}.${point ?? afterV ?? '0'}`);
  return volts > 0 ? volts : undefined;
}
