import {
  type DraftReading,
  EMPTY_REST,
  type PartDraft,
  readDraft,
  type TableDraft,
} from '@/core/import/compose/draft';
import { readFile } from '@/core/import/files/read-file';
import { chooseTable, startTable } from '@/core/import/tables/choose-table';
import { splitRole, type TableKind } from '@/core/import/tables/mapping';
import type { TableProblem } from '@/core/import/tables/records';
import type { TruePart } from './truth';

/** A file as the import view takes it, without anybody changing anything. */
export function tableFrom(kind: TableKind, name: string, bytes: Uint8Array): TableDraft {
  const read = readFile(name, bytes);
  if (!read.ok) throw new Error(read.problems.map((one) => `${one.place}: ${one.message}`).join('\n'));
  if (read.value.kind !== 'tables') throw new Error(`${name} holds ${read.value.kind}`);
  const chosen = chooseTable(kind, read.value.tables);
  if (!chosen) throw new Error(`${name} holds no table`);
  const { grid, mapping } = startTable(kind, chosen.grid);
  return { grid, mapping, source: { document: name } };
}

export const draftFrom = (pinout: TableDraft, functions: TableDraft | null): PartDraft => ({
  pinout,
  functions,
  device: { id: 'frost-guard-part', name: 'Frost guard part', maker: '', summary: '' },
  rest: EMPTY_REST,
  corrections: [],
  padColumns: {},
});

/** Answers as somebody gives them who has the document before him. */
const answerOf = (problem: TableProblem, part: TruePart): string | undefined => {
  const without = part.pads.filter((pad) => pad.kind === 'io' && pad.functions.length === 0);
  if (problem.key === `no rows ${without.length}`) return 'yes';
  if (problem.key?.startsWith('alone')) return 'title';
  if (problem.key === 'ports from above') return 'yes';
  // All else says that something is wrong, and is for somebody to look at.
  return undefined;
};

/** What was asked, and what comes of the draft when that is answered. */
export function answered(draft: PartDraft, part: TruePart): { reading: DraftReading; asked: string[] } {
  let reading = readDraft(draft);
  const asked: string[] = [];
  for (let round = 0; round < 4 && reading.questions > 0; round++) {
    const give = (table: TableDraft | null, problems: readonly TableProblem[]): TableDraft | null => {
      if (!table) return null;
      const answers: Record<string, string> = { ...table.answers };
      for (const one of problems) {
        const answer = one.severity === 'question' ? answerOf(one, part) : undefined;
        if (one.key === undefined || answer === undefined) continue;
        answers[one.key] = answer;
        asked.push(one.message);
      }
      return { ...table, answers };
    };
    draft = {
      ...draft,
      pinout: give(draft.pinout, reading.pinout.problems),
      functions: give(draft.functions, reading.functionTable.problems),
    };
    reading = readDraft(draft);
  }
  return { reading, asked };
}

/** Where a reading differs from the part that was printed. `packages` are those that the document shows, in order. */
export function differences(
  part: TruePart,
  reading: DraftReading,
  withFunctions: boolean,
  only?: string,
): string[] {
  const wrong: string[] = [];
  const packages = reading.file.packages.map((one) => one.id);
  const shown = part.packages.filter((one) => only === undefined || one.id === only);
  if (packages.length !== shown.length)
    wrong.push(`packages ${packages.join(' ')} instead of ${shown.map((one) => one.id).join(' ')}`);
  const byId = new Map(reading.pads.map((pad) => [pad.id, pad]));
  for (const truth of part.pads) {
    const expected = shown.flatMap((one) => (truth.pins[one.id] ?? []).map((pin) => `${one.id} ${pin}`));
    const pad = byId.get(truth.id);
    if (!pad) {
      if (expected.length > 0 || only === undefined) wrong.push(`${truth.id} is missing`);
      continue;
    }
    byId.delete(truth.id);
    const pins = pad.pins.map((one) => `${shown[packages.indexOf(one.package)]?.id} ${one.pin}`);
    if (pins.sort().join() !== expected.sort().join())
      wrong.push(`${truth.id} has pins ${pins.join(', ')} instead of ${expected.join(', ')}`);
    if (pad.kind !== truth.kind) wrong.push(`${truth.id} is ${pad.kind} instead of ${truth.kind}`);
    if (truth.kind === 'io' && (pad.port !== truth.port || pad.bit !== truth.bit))
      wrong.push(`${truth.id} is ${pad.port} ${pad.bit} instead of ${truth.port} ${truth.bit}`);
  }
  for (const id of byId.keys()) wrong.push(`${id} is no pad`);
  if (!withFunctions) return wrong;
  const key = (pad: string, signal: string, code: number | null): string => `${pad} ${signal} ${code}`;
  const expected = new Set(
    part.pads.flatMap((pad) => pad.functions.map((one) => key(pad.id, one.signal, one.code))),
  );
  for (const one of reading.functions) {
    const own = key(one.pad, one.signal, one.mux);
    if (!expected.delete(own)) wrong.push(`function ${own} is none`);
  }
  for (const one of expected) wrong.push(`function ${one} is missing`);
  return wrong;
}

/** How many columns were given the role that they have, of those that matter. */
export function columnsRight(
  draft: TableDraft,
  kind: TableKind,
  part: TruePart,
): { right: number; all: number } {
  const bases = draft.mapping.roles.map((role) => splitRole(role)[0]);
  const count = (base: string): number => bases.filter((one) => one === base).length;
  if (kind === 'pinout') {
    const named = count('pad') === 1 ? 1 : 0;
    const pins = Math.min(count('pin'), part.packages.length);
    return {
      right: named + pins + Math.min(1, count('kind')),
      all: 1 + part.packages.length + (bases.length > 2 ? 1 : 0),
    };
  }
  const long = bases.length <= 4;
  const codes = new Set(part.pads.flatMap((pad) => pad.functions.flatMap((one) => one.code ?? []))).size;
  return long
    ? { right: Math.min(1, count('pad')) + Math.min(1, count('signal')) + Math.min(1, count('code')), all: 3 }
    : {
        right: Math.min(1, count('pad')) + Math.min(codes, count('mux')) + Math.min(1, count('analog')),
        all: codes + 2,
      };
}
