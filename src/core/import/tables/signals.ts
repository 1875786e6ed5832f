import { listCell, portBitOf, signalFrom } from './cells';

/** Whether a word has the form of a signal with its instance: `UART1.TX`, `SPI2_SCK`. */
export const looksLikeSignal = (word: string): boolean =>
  /[A-Za-z]\d*[._]\w/.test(word) && signalFrom(word) !== undefined && portBitOf(word) === undefined;

/** Whether cells list signals. */
export function looksLikeSignals(cells: readonly string[]): boolean {
  const words = cells.flatMap((cell) => listCell(cell, /[\s;,/]+/).map((word) => word.text));
  return words.length > 0 && words.filter(looksLikeSignal).length > words.length * 0.6;
}
