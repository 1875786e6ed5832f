import { SaxesParser } from 'saxes';
import type { Result } from '@/core/base/result';
import { type Derived, derive } from '@/core/derive/derive';
import type { Device } from '@/core/device/device';
import { EMPTY_REST, type PartDraft, type TableDraft } from '@/core/import/compose/draft';
import { printTables } from '@/core/import/compose/print-tables';
import { PIECE } from '@/core/import/svd/xml';
import { guessMapping } from '@/core/import/tables/guess';
import type { TableKind } from '@/core/import/tables/mapping';
import { readText } from '@/core/import/tables/read-text';
import { emptyPlan, type Net, type Plan } from '@/core/plan/model/types';
import { readDeviceFolder } from '@/files/devices';

type Must = <T>(result: Result<T>) => T;

/** The largest shipped package with 200 nets: two thirds peripheral signals, the rest plain inputs and outputs. */
export function largePlan(must: Must): { device: Device; plan: Plan; derived: Derived; draft: PartDraft } {
  const device = must(readDeviceFolder('devices/hadrik-h7'));
  const bonded = device.pinsOf.get('b361');
  const pads = device.description.pads.filter((pad) => pad.kind === 'io' && bonded?.has(pad.id));
  const signals = new Set<string>();
  const circuits = Array.from({ length: 12 }, (_, i) => ({ id: `c${i}`, name: `Circuit ${i}` }));
  const nets = pads.slice(0, 200).map((pad, index): Net => {
    const fn = (device.functionsByPad.get(pad.id) ?? []).find(
      (one) => one.mux !== null && !signals.has(one.signal),
    );
    const role: Net['role'] =
      fn && index % 3 > 0 ? { kind: 'signal', signal: fn.signal } : { kind: index % 2 ? 'input' : 'output' };
    if (role.kind === 'signal') signals.add(role.signal);
    const placement = { pad: pad.id, locked: false };
    return {
      id: `n${index}`,
      name: `NET_${index}`,
      circuit: `c${index % 12}`,
      role,
      placement,
      settings: {},
    };
  });
  const plan = { ...emptyPlan('Gateway', device.description.id, 'b361', device.fingerprint), circuits, nets };
  const printed = printTables(device.original);
  const table = (kind: TableKind, text: string): TableDraft => {
    const grid = must(readText(kind, text));
    return { grid, mapping: guessMapping(kind, grid, { unknown: 'ignore' }), source: { document: kind } };
  };
  const draft: PartDraft = {
    pinout: table('pinout', printed.pinout),
    functions: table('functions', printed.functions),
    device: { id: 'x', name: 'X', maker: '', summary: '' },
    rest: EMPTY_REST,
    corrections: [],
    padColumns: {},
  };
  return { device, plan, derived: must(derive(device, plan)), draft };
}

/** A register description of at least so many characters, with arrays, clusters and derived peripherals as real ones have. */
export function largeRegisterFile(characters: number): string {
  const field = (i: number): string =>
    `<field><name>F${i}</name><description>what field ${i} of the register is for</description><bitRange>[${i * 2 + 1}:${i * 2}]</bitRange><access>read-write</access></field>`;
  const register = (i: number): string =>
    `<register><name>R${i}</name><description>register ${i} of the block, with some words about what it does</description><addressOffset>0x${(i * 4).toString(16)}</addressOffset><size>32</size><access>read-write</access><resetValue>0x00000000</resetValue><fields>${Array.from({ length: 12 }, (_, f) => field(f)).join('')}</fields></register>\n`;
  const registers = Array.from({ length: 24 }, (_, i) => register(i)).join('');
  const parts: string[] = [];
  let length = 0;
  for (let i = 0; length < characters; i++) {
    const base = `<baseAddress>0x${(0x40000000 + i * 0x400).toString(16)}</baseAddress>`;
    const part =
      i % 4 === 3
        ? `<peripheral derivedFrom="P${i - 1}"><name>P${i}</name>${base}</peripheral>\n`
        : `<peripheral><name>P${i}</name><description>block ${i}</description>${base}<registers>${registers}</registers></peripheral>\n`;
    parts.push(part);
    length += part.length;
  }
  return `<?xml version="1.0"?>\n<device><name>LARGE</name><description>bench</description><peripherals>\n${parts.join('')}</peripherals></device>\n`;
}

/** What reading the XML costs by itself: every event of the parser, in the same pieces, and nothing done with it. */
export function parseOnly(text: string): number {
  const parser = new SaxesParser({ xmlns: false, position: true });
  let events = 0;
  const count = (): void => {
    events++;
  };
  parser.on('opentag', count);
  parser.on('closetag', count);
  parser.on('text', count);
  for (let at = 0; at < text.length; at += PIECE) parser.write(text.slice(at, at + PIECE));
  parser.close();
  return events;
}
