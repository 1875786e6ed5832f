import { PlacesByTitle } from '../../base/text/places-by-title';
import type { RegisterFile } from '../../description/register-file';
import type { Proposal } from './choices';
import { propose } from './propose';

/** A pad that registers are to be found for. */
export interface PortPad {
  id: string;
  port: string;
  bit: number;
}

/** A register description as the import view needs it: what it is about, and what is proposed. All else stays where it was read. */
export interface OpenRegisters {
  name: string;
  blocks: number;
  registers: number;
  endian: RegisterFile['endian'];
  notCarried: readonly string[];
  proposal: Proposal;
}

export function openRegisters(file: RegisterFile, pads: readonly PortPad[]): OpenRegisters {
  const ports: Record<string, number> = {};
  for (const { port, bit } of pads) ports[port] = Math.max(ports[port] ?? 0, bit + 1);
  return {
    name: file.name,
    blocks: file.peripherals.length,
    registers: file.peripherals.reduce((sum, one) => sum + one.registers.length, 0),
    endian: file.endian,
    notCarried: [...(file.notCarried ?? []), ...notCarriedOf(file)],
    proposal: propose(
      file,
      ports,
      pads.map((pad) => pad.id),
    ),
  };
}

/** What registers do by the file, and a proposal has no word for; fields by what it is, each with its register. */
function notCarriedOf(file: RegisterFile): string[] {
  const places = new PlacesByTitle();
  for (const { name, registers } of file.peripherals)
    for (const register of registers)
      for (const field of register.fields) {
        const where = `${name}.${register.name}.${field.name}`;
        if (field.pulse) places.add('written bits that are back at 0 at once', where);
        if (field.hardware === 'sets' || field.hardware === 'clears')
          places.add(`bits that the hardware ${field.hardware}`, where);
        if (field.enabledBy)
          places.add('writes that another bit lets through', `${where} (${field.enabledBy.field})`);
        if (field.allowed) places.add('values that may be written', where);
      }
  return places.lines();
}
