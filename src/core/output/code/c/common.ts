import type { Derived } from '../../../derive/derive';
import { identityLines } from '../identity';
import type { CNames } from './names';
import { blockComment, type CCode, c, comment } from './writer';

/** The lines that say which plan this is. */
export const identityComment = (derived: Derived, file: string, about: string): CCode[] =>
  blockComment(identityLines(derived, file, about));

export const widthType = (bits: 8 | 16 | 32): CCode => TYPES[bits];
const TYPES = { 8: c`uint8_t`, 16: c`uint16_t`, 32: c`uint32_t` };

/** How a fixed number of cycles is waited for, for the user to replace. */
export function waitMacro(names: CNames, storage: 'static' | 'static inline'): CCode[] {
  const [macro, wait] = [names.ownMacro('WAIT'), names.own('wait')];
  return [
    c``,
    comment('Lets at least the given number of cycles pass. Define it before to wait in another way.'),
    c`#ifndef ${macro}`,
    c`${storage === 'static' ? c`static` : c`static inline`} void ${wait}(uint32_t cycles)`,
    c`{`,
    c`    for (volatile uint32_t left = cycles; left > 0u; left = left - 1u) { }`,
    c`}`,
    c`#define ${macro}(cycles) ${wait}(cycles)`,
    c`#endif`,
  ];
}
