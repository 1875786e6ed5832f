import type { Register } from './types';

/** `PA` of `PA.OUT`. */
export const blockOf = ({ name, block }: Register): string => name.split('.')[0] ?? block;

/** `OUT` of `PA.OUT`. */
export const ownName = ({ name }: Register): string => name.split('.').slice(1).join('.');

/** How a name is compared: without case, and whatever joins its parts. */
export const nameKey = (name: string): string =>
  name
    .trim()
    .toUpperCase()
    .replace(/->|[^A-Z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '');

/**
 * Registers by the names that people write: `PA.OUT`, `PA->OUT`, `pa_out`, `BOARD_PA_OUT`, `OUT` where only one block has it, and the
 * names that `alsoCalled` gives.
 */
export class RegisterNames {
  private readonly byKey = new Map<string, Register[]>();
  private readonly byLetters = new Map<string, Register[]>();

  constructor(
    registers: Iterable<Register>,
    alsoCalled: (register: Register) => readonly string[] = () => [],
  ) {
    for (const register of registers) {
      const keys = [register.name, ownName(register), ...alsoCalled(register)].map(nameKey);
      for (const key of new Set(keys)) if (key !== '') add(this.byKey, key, register);
      add(this.byLetters, nameKey(register.name).replaceAll('_', ''), register);
    }
  }

  /** The registers that a name may mean; several where it does not say which. */
  find(name: string): readonly Register[] {
    const wanted = nameKey(name);
    const exact = this.byKey.get(wanted);
    if (exact) return exact;
    // A prefix of the code's own may stand before it.
    for (let at = wanted.indexOf('_'); at >= 0; at = wanted.indexOf('_', at + 1)) {
      const rest = wanted.slice(at + 1);
      const found = rest.includes('_') ? this.byKey.get(rest) : undefined;
      if (found) return found;
    }
    return this.byLetters.get(wanted.replaceAll('_', '')) ?? [];
  }
}

function add(map: Map<string, Register[]>, key: string, register: Register): void {
  const list = map.get(key);
  if (list) list.push(register);
  else map.set(key, [register]);
}
