import { evaluate, parseExpression } from '../description/language/expression';
import type { ListedLine, Pad } from '../description/types';
import type { Device } from './device';

/** A line to the interrupt controller, as a pad reaches it. */
export interface InterruptLine {
  id: string;
  /** `one`: of all pads on it only one can be led to it; `together`: they all raise it; `own`: it is this pad's alone. */
  shared: 'own' | 'one' | 'together';
  number?: number;
}

/** Whether a pad is on a listed line. */
export const isOn = ({ pads, ports }: ListedLine, { id, port }: Pad): boolean =>
  pads?.includes(id) === true || (port !== undefined && ports?.includes(port) === true);

/** The line by which a pad interrupts; `none` where it has none, undefined where the part does not say how lines go. */
export function interruptLine(device: Device, pad: Pad): InterruptLine | 'none' | undefined {
  const { interrupts } = device.description;
  if (!interrupts) return undefined;
  const number =
    interrupts.number === undefined
      ? undefined
      : evaluate(parseExpression(interrupts.number), device.scopeOf({ pad }));
  const numbered = number === undefined ? {} : { number };
  switch (interrupts.lines) {
    case 'bit':
      if (interrupts.count !== undefined && (pad.bit ?? 0) >= interrupts.count) return 'none';
      return { id: String(pad.bit ?? 0), shared: 'one', ...numbered };
    case 'port':
      return { id: pad.port ?? pad.id, shared: 'together', ...numbered };
    case 'pad':
      return { id: pad.id, shared: 'own', ...numbered };
    case 'listed': {
      const line = interrupts.listed?.find((each) => isOn(each, pad));
      if (!line) return 'none';
      const several = (line.pads?.length ?? 0) > 1 || line.ports !== undefined;
      return {
        id: line.name,
        shared: several ? (line.together ? 'together' : 'one') : 'own',
        ...(line.number === undefined ? numbered : { number: line.number }),
      };
    }
  }
}

/** The line that a pad shares with others of which only one can have it; undefined where it has one of its own or none. */
export function exclusiveLine(device: Device, pad: Pad | undefined): string | undefined {
  const line = pad && interruptLine(device, pad);
  return line !== undefined && line !== 'none' && line.shared === 'one' ? line.id : undefined;
}
