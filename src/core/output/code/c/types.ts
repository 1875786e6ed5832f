import { type CCode, c } from './writer';

/** The unsigned type of so many bits. */
export const widthType = (bits: 8 | 16 | 32): CCode => TYPES[bits];
const TYPES = { 8: c`uint8_t`, 16: c`uint16_t`, 32: c`uint32_t` };
