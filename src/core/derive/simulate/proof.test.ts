import { expectOk } from '@/testing/expect-ok';
import { deriveOn, on, planOf } from '@/testing/frost-guard';
import { loadSmall, problemsOfSmall, smallPart } from '@/testing/small-part';
import { heldText } from '../../description/language/held-value';
import type { BetweenSource, RecipeSource, RegisterSource } from '../../description/recipe';
import type { SettingKey } from '../../description/settings';
import { compileDevice } from '../../device/compile/compile';
import { loadDevice } from '../../device/compile/load';
import type { Device } from '../../device/device';
import { canonical } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';
import type { CodeStyle } from '../../plan/model/types';
import { lower } from '../lower/lower';
import type { Operation } from '../machine/operations';
import { prove } from './proof';

/** A port with direction and latch, and whatever else a case needs. */
const port = (registers: RegisterSource[]): RecipeSource['registers']['blocks'][number] => ({
  id: 'PORT',
  each: 'port',
  base: '0x1000 + 0x40*p',
  name: 'P{port}',
  registers,
});
const dirAndLatch: RegisterSource[] = [
  { id: 'DIR', offset: '0', bits: 8 },
  { id: 'LATCH', offset: '1', bits: 8 },
];
const plain: Partial<RecipeSource> = {
  settings: { mode: ['input', 'output'], level: ['low', 'high'] },
  applies: { input: [], output: ['level'], function: [], analog: [] },
  registers: { blocks: [port(dirAndLatch)] },
  fields: {
    dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
    latch: { in: 'PORT.LATCH', at: 'b', bits: 1 },
  },
  access: { latch: 'latch' },
  encode: [
    { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
    { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
  ],
  stages: [
    { id: 'latch', fields: ['latch'] },
    { id: 'direction', fields: ['dir'] },
  ],
};

type Wish = Partial<Record<SettingKey, string>> & { signal?: string };

/** `A0: { use: 'output', level: 'high' }` as planned pads. */
function plannedOn(device: Device, wishes: Record<string, Wish>): PlannedPad[] {
  return Object.entries(wishes).map(([id, { signal, ...values }]) => {
    const pad = device.pads.get(id);
    if (!pad) throw new Error(id);
    const fn = device.functionsByPad.get(id)?.find((one) => one.signal === signal);
    const line = fn && device.lineOf(fn.signal)?.direction;
    const settings = canonical(device.description.recipe, { values, ...device.selection(fn) }, line);
    return { pad, ...(fn ? { fn } : {}), settings };
  });
}

function proven(
  recipe: Partial<RecipeSource>,
  wishes: Record<string, Wish>,
  style: CodeStyle = 'preserving',
) {
  const device = loadSmall(recipe);
  const planned = plannedOn(device, wishes);
  const lowered = lower(device, planned, style);
  const proof = prove(device, planned, lowered);
  return { ...proof, lowered, messages: proof.failures.map((one) => one.message), device };
}

const hex = (value: number): string => `0x${(value >>> 0).toString(16)}`;

/** `write PA.DIR 0x1`. */
function word(one: Operation): string {
  switch (one.kind) {
    case 'write':
      return `write ${one.register.name} ${hex(one.value)}`;
    case 'update':
      return `update ${one.register.name} ${hex(one.clear)} ${hex(one.set)}`;
    case 'flip':
      return `flip ${one.register.name} ${hex(one.mask)}`;
    case 'await':
      return `await ${one.register.name} ${hex(one.mask)}`;
    case 'wait':
      return `wait ${one.cycles}`;
    case 'read':
      return `${one.holds === undefined ? '' : `held${one.holds} = `}read ${one.register.name}`;
    case 'write held':
      return `write ${one.register.name} ${heldText(one.value, (id) => `held${id}`)}`;
  }
}
const words = (operations: readonly Operation[]): string[] => operations.map(word);

const lamp: Record<string, Wish> = { A0: { mode: 'output', level: 'high' } };

test('a recipe without traps is proven in both styles', () => {
  for (const style of ['preserving', 'from-reset'] as const)
    expect(proven(plain, lamp, style).proven).toBe(1);
});

describe('addresses', () => {
  test('a stride that puts one port on another is refused, with both names and the address', () => {
    const block = { ...port(dirAndLatch), base: '0x1000 + p' };
    expect(problemsOfSmall({ ...plain, registers: { blocks: [block] } })).toBe(
      'recipe, block PORT, register LATCH: PB.DIR and PA.LATCH are both at 0x1001; if that is on purpose (parts of one register, or one that is read and one that is written), say so with "overlaps"',
    );
  });
  test('two registers at one address, of any widths, are refused', () => {
    const block = port([...dirAndLatch, { id: 'BOTH', offset: '0', bits: 16 }]);
    const text = problemsOfSmall({ ...plain, registers: { blocks: [block] } });
    expect(text).toMatch(/PA\.BOTH and PA\.DIR are both at 0x1000/);
    expect(text).toMatch(/PA\.BOTH and PA\.LATCH are both at 0x1001/);
  });
  test.each(['little', 'big'] as const)(
    'halves of a word that say so show the bits of the word (%s)',
    (endian) => {
      const block = port([
        { id: 'WORD', offset: '0', bits: 32 },
        { id: 'LOW', offset: endian === 'little' ? '0' : '2', bits: 16, overlaps: 'WORD' },
        { id: 'HIGH', offset: endian === 'little' ? '2' : '0', bits: 16, overlaps: 'WORD' },
      ]);
      const recipe: Partial<RecipeSource> = {
        ...plain,
        endian,
        registers: { blocks: [block] },
        fields: {
          dir: { in: 'PORT.WORD', at: 'b', bits: 1 },
          latch: { in: 'PORT.WORD', at: '16 + b', bits: 1 },
        },
      };
      expect(proven(recipe, lamp).messages).toEqual([]);
      // A statement on the upper half undoes the latch, and that is seen.
      const undone = {
        ...recipe,
        stages: [...(recipe.stages ?? []), { id: 'clear', per: 'port' as const, do: ['PORT.HIGH := 0'] }],
      };
      expect(proven(undone, lamp).messages.join()).toMatch(
        /after operation 3 \(stage clear\) A0 is driven low before it is set high/,
      );
    },
  );
  test('what is read and what is written at one address may share it, and nothing else', () => {
    const block = port([
      ...dirAndLatch,
      { id: 'SEEN', offset: '1', bits: 8, access: 'read', follows: 'pads', overlaps: 'LATCH' },
    ]);
    const shared = { ...plain, registers: { blocks: [block] } };
    // LATCH can be read as well: then both would show the same bits, which the levels at the pads are not.
    const apart = structuredClone(shared);
    const latch = apart.registers?.blocks[0]?.registers[1];
    if (latch) latch.access = 'write';
    expect(proven(apart, lamp, 'from-reset').messages).toEqual([]);
  });
  test('what is read and what turns bits may share an address', () => {
    const block = port([
      ...dirAndLatch,
      { id: 'SEEN', offset: '2', bits: 8, access: 'read', follows: 'pads', overlaps: 'TURN' },
      { id: 'TURN', offset: '2', bits: 8, access: 'toggle of LATCH' },
    ]);
    expect(proven({ ...plain, registers: { blocks: [block] } }, lamp).messages).toEqual([]);
  });
  test('an alias is the register at a second address', () => {
    const block = port([...dirAndLatch, { id: 'AGAIN', offset: '8', bits: 8, access: 'alias of DIR' }]);
    const recipe = {
      ...plain,
      registers: { blocks: [block] },
      stages: [...(plain.stages ?? []), { id: 'undo', per: 'pad' as const, do: ['PORT.AGAIN bit b := 0'] }],
    };
    expect(proven(recipe, lamp).messages[0]).toMatch(/field dir of A0 in PA\.DIR ends as 0/);
  });
});

describe('how registers are driven', () => {
  const flagged = (access: string, more: Partial<RegisterSource> = {}): Partial<RecipeSource> => ({
    ...plain,
    registers: {
      blocks: [
        port([
          ...dirAndLatch,
          { id: 'FLAG', offset: '2', bits: 8 },
          { id: 'ACK', offset: '3', bits: 8, access, ...more },
        ]),
      ],
    },
    stages: [...(plain.stages ?? []), { id: 'flags', per: 'pad', do: ['PORT.ACK bit b := 1'] }],
  });
  test.each(['set of FLAG', 'clear of FLAG', 'toggle of FLAG', 'strobe'])(
    'a step on a register that is "%s" writes the bits that are meant and reads nothing',
    (access) => {
      const { lowered } = proven(flagged(access), { ...lamp, A3: { mode: 'input' } });
      expect(words(lowered.operations).at(-1)).toBe('write PA.ACK 0x9');
    },
  );
  test('flags beside plain bits are written 0 unless they are to be cleared', () => {
    const block = port([
      { id: 'DIR', offset: '0', bits: 16, clearedByOne: '0xFF00' },
      { id: 'LATCH', offset: '2', bits: 8 },
    ]);
    const recipe = { ...plain, registers: { blocks: [block] } };
    expect(proven(recipe, lamp).messages).toEqual([]);
    const clearing = {
      ...recipe,
      stages: [
        { id: 'flags', per: 'pad' as const, do: ['PORT.DIR bit 8 + b := 1'] },
        ...(plain.stages ?? []),
      ],
    };
    const { lowered, messages } = proven(clearing, lamp);
    expect(messages).toEqual([]);
    expect(words(lowered.operations)[0]).toBe('update PA.DIR 0x100 0x100');
  });
  test('ones in the lower half set, ones in the upper half clear', () => {
    const block = port([
      { id: 'DIR', offset: '0', bits: 8 },
      { id: 'LATCH', offset: '2', bits: 16 },
      { id: 'BOTH', offset: '4', bits: 32, access: 'set and clear of LATCH' },
    ]);
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [block] },
      fields: {
        ...plain.fields,
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.BOTH', clearedBy: 'PORT.BOTH' },
      },
    };
    const { lowered, messages } = proven(recipe, { ...lamp, A1: { mode: 'output', level: 'low' } });
    expect(messages).toEqual([]);
    expect(words(lowered.operations)[0]).toBe('write PA.BOTH 0x20001');
  });
  test('a second strobe is written again, also from reset', () => {
    const recipe = flagged('strobe');
    recipe.stages?.push({ id: 'again', per: 'pad', do: ['PORT.ACK bit b := 1'] });
    const { lowered } = proven(recipe, lamp, 'from-reset');
    expect(words(lowered.operations).filter((one) => one === 'write PA.ACK 0x1')).toHaveLength(2);
  });
  test('a write to a write-only register is not left out because its reset value says the same', () => {
    const block = port([
      { ...dirAndLatch[0], access: 'write' } as RegisterSource,
      dirAndLatch[1] as RegisterSource,
    ]);
    const recipe = { ...plain, registers: { blocks: [block] } };
    const { lowered, messages } = proven(recipe, { A0: { mode: 'input' } });
    expect(words(lowered.operations)).toEqual(['write PA.DIR 0x0']);
    // What the other pads were cannot be read, so it cannot be kept: that is said.
    expect(messages[0]).toMatch(
      /operation 1 \(stage direction\) changes bits 0xFE of PA\.DIR, which are not the plan's/,
    );
    expect(proven(recipe, lamp, 'from-reset').messages).toEqual([]);
  });
  test('reserved bits that every write must give a value are not put into a register that clears', () => {
    const block = port([
      ...dirAndLatch.map((one) =>
        one.id === 'LATCH' ? { ...one, always: '0x80 in 0x80', reset: '0x80' } : one,
      ),
      { id: 'UP', offset: '2', bits: 8, access: 'set of LATCH' },
      { id: 'DOWN', offset: '3', bits: 8, access: 'clear of LATCH' },
    ]);
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [block] },
      fields: {
        ...plain.fields,
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.UP', clearedBy: 'PORT.DOWN' },
      },
    };
    const { lowered, messages } = proven(recipe, { A0: { mode: 'output', level: 'low' } });
    expect(messages).toEqual([]);
    expect(words(lowered.operations)[0]).toBe('write PA.DOWN 0x1');
  });
  test('steps of a stage that follow each other in one register are one access; a pulse stays two', () => {
    const mode: RegisterSource = { id: 'MODE', offset: '4', bits: 8 };
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [port(dirAndLatch), { id: 'SYS', base: '0x2000', registers: [mode] }] },
    };
    const stages = (steps: string[]) => ({
      ...recipe,
      stages: [{ id: 'mode', do: steps }, ...(plain.stages ?? [])],
    });
    const one = proven(
      stages(['SYS.MODE bit 0 := 1', 'SYS.MODE bit 1 := 1', 'SYS.MODE bits 4 to 5 := 2']),
      lamp,
    );
    expect(words(one.lowered.operations)[0]).toBe('update SYS.MODE 0x33 0x23');
    expect(one.messages).toEqual([]);
    const pulse = proven(stages(['SYS.MODE bit 0 := 1', 'SYS.MODE bit 0 := 0']), lamp);
    expect(words(pulse.lowered.operations).slice(0, 2)).toEqual([
      'update SYS.MODE 0x1 0x1',
      'update SYS.MODE 0x1 0x0',
    ]);
  });
  test('pads that want different values of one register are said to, instead of the last one winning', () => {
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: {
        blocks: [
          port(dirAndLatch),
          { id: 'SYS', base: '0x2000', registers: [{ id: 'WHO', offset: '0', bits: 8 }] },
        ],
      },
      stages: [{ id: 'who', per: 'pad', do: ['SYS.WHO := n'] }, ...(plain.stages ?? [])],
    };
    const { lowered } = proven(recipe, { ...lamp, A3: { mode: 'input' } });
    expect(lowered.clashes).toMatchObject([{ register: { name: 'SYS.WHO' }, pads: ['A0', 'A3'] }]);
  });
  test('one word a pad is accessed once, also when nothing is asked of a later stage', () => {
    const { lowered, messages } = proven(
      {
        settings: { mode: ['input', 'output'], trigger: ['none', 'rising'] },
        applies: { input: ['trigger'], output: [], function: [], analog: [] },
        registers: {
          blocks: [
            {
              id: 'CELL',
              each: 'pad',
              base: '0x5000 + 4*n',
              name: 'CELL_{pad}',
              registers: [{ id: 'WORD', offset: '0', bits: 32 }],
            },
          ],
        },
        fields: { out: { in: 'CELL.WORD', at: '0', bits: 1 }, edge: { in: 'CELL.WORD', at: '8', bits: 2 } },
        encode: [
          { field: 'out', from: ['mode'], table: { output: 1, input: 0 } },
          { field: 'edge', from: ['trigger'], table: { none: 0, rising: 1 } },
        ],
        stages: [
          { id: 'pads', fields: ['out'] },
          { id: 'interrupt', fields: ['edge'] },
        ],
      },
      { A0: { mode: 'output' }, A1: { mode: 'input' }, A2: { mode: 'input', trigger: 'rising' } },
    );
    expect(messages).toEqual([]);
    expect(words(lowered.operations)).toEqual([
      'update CELL_A0.WORD 0x301 0x1',
      'update CELL_A1.WORD 0x301 0x0',
      'update CELL_A2.WORD 0x1 0x0',
      'update CELL_A2.WORD 0x300 0x100',
    ]);
  });
});

describe('what the machine answers', () => {
  const gated = (
    gate: Partial<RecipeSource['stages'][number]>,
    guard: string = 'SYS.READY bit p',
  ): Partial<RecipeSource> => ({
    ...plain,
    registers: {
      blocks: [
        port(dirAndLatch),
        {
          id: 'SYS',
          base: '0x2000',
          registers: [
            { id: 'ON', offset: '0', bits: 8 },
            { id: 'READY', offset: '1', bits: 8, access: 'read', follows: 'ON after 5 cycles' },
            { id: 'KEY', offset: '2', bits: 8, access: 'key 0x3C then 0xC5 opens PORT.DIR' },
          ],
        },
      ],
      guards: [{ block: 'PORT', openWhen: guard }],
    },
    stages: [
      { id: 'gate', per: 'port', do: ['SYS.ON bit p := 1', 'await SYS.READY bit p = 1 within 20'], ...gate },
      { id: 'unlock', do: ['SYS.KEY := 0x3C', 'SYS.KEY := 0xC5'] },
      ...(plain.stages ?? []),
    ],
  });
  test('all is well where the gate is awaited and the key written', () => {
    for (const style of ['preserving', 'from-reset'] as const)
      expect(proven(gated({}), lamp, style).messages).toEqual([]);
  });
  test('a lost write names the operation, the register and what stands in the way', () => {
    const { failures } = proven(gated({ do: ['SYS.ON bit 7 := 1'] }), lamp, 'from-reset');
    expect(failures).toMatchObject([
      {
        pad: 'A0',
        kind: 'lost',
        stage: 'latch',
        operation: 3,
        register: { name: 'PA.LATCH' },
        message: 'operation 4 (stage latch): the write to PA.LATCH is lost: SYS.READY bit 0 is 0',
      },
    ]);
  });
  test('a gate that may be shut is a case, not an assumption', () => {
    const { messages } = proven(gated({ do: ['SYS.ON bit 7 := 1'] }), lamp);
    expect(messages).toEqual([
      'operation 4 (stage latch): the write to PA.LATCH may be lost: SYS.READY bit 0 must be 1, and may be 0',
    ]);
  });
  test('waiting that may end without result stops the code, so no pad is proven', () => {
    const { failures } = proven(gated({ do: ['SYS.ON bit p := 1', 'await SYS.READY bit p = 1 within 2'] }), {
      ...lamp,
      B0: { mode: 'input' },
    });
    expect(failures.map((one) => [one.pad, one.kind])).toEqual([
      ['A0', 'times-out'],
      ['B0', 'times-out'],
    ]);
    expect(failures[0]?.message).toMatch(
      /waiting for bits 0, 1 of SYS\.READY may end without result, and the code stops there/,
    );
  });
  test('a key that is missing or wrong leaves its register locked; one key too few may do so', () => {
    const recipe = gated({});
    const unlock = recipe.stages?.[1];
    if (unlock) unlock.do = ['SYS.KEY := 0xC5'];
    // Half of the states are one key further: then this opens it, so the write is lost perhaps.
    expect(proven(recipe, lamp).messages).toEqual([
      'operation 5 (stage direction): the write to PA.DIR may be lost: nothing has opened SYS.KEY, which may be open or shut',
    ]);
    expect(proven(recipe, lamp, 'from-reset').messages).toEqual([
      'operation 5 (stage direction): the write to PA.DIR is lost: SYS.KEY is shut',
    ]);
  });
  test('commit bits hold for a register that sets or clears bits', () => {
    const block = port([
      ...dirAndLatch,
      { id: 'UP', offset: '2', bits: 8, access: 'set of LATCH', writableWhere: 'MAY' },
      { id: 'DOWN', offset: '3', bits: 8, access: 'clear of LATCH', writableWhere: 'MAY' },
      { id: 'MAY', offset: '4', bits: 8 },
    ]);
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [block] },
      fields: {
        ...plain.fields,
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.UP', clearedBy: 'PORT.DOWN' },
      },
    };
    expect(proven(recipe, lamp).messages[0]).toBe(
      'operation 1 (stage latch): bit 0 of PA.UP may not take the write: PA.MAY may be 0 there',
    );
    const opened = {
      ...recipe,
      stages: [{ id: 'may', per: 'pad' as const, do: ['PORT.MAY bit b := 1'] }, ...(plain.stages ?? [])],
    };
    expect(proven(opened, lamp).messages).toEqual([]);
  });
  test('a guard in the register that it guards shuts all bits but its own', () => {
    const block = port([
      { id: 'DIR', offset: '0', bits: 16 },
      { id: 'LATCH', offset: '2', bits: 8 },
    ]);
    const within = (stages: RecipeSource['stages']): Partial<RecipeSource> => ({
      ...plain,
      registers: {
        blocks: [block],
        guards: [{ block: 'PORT', registers: ['DIR'], openWhen: 'PORT.DIR bit 15' }],
      },
      stages,
    });
    expect(proven(within(plain.stages ?? []), lamp, 'from-reset').messages[0]).toBe(
      'operation 2 (stage direction): the write to PA.DIR is lost: PA.DIR bit 15 is 0',
    );
    const opened = within([
      { id: 'open', per: 'port', do: ['PORT.DIR bit 15 := 1'] },
      ...(plain.stages ?? []),
    ]);
    for (const style of ['preserving', 'from-reset'] as const)
      expect(proven(opened, lamp, style).messages).toEqual([]);
  });
  test('a direction that arrives late is not there when the code ends', () => {
    const block = port([
      { id: 'WISH', offset: '0', bits: 8 },
      { id: 'DIR', offset: '4', bits: 8, access: 'read', follows: 'WISH after 9 cycles' },
      { id: 'LATCH', offset: '1', bits: 8 },
    ]);
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [block] },
      fields: { ...plain.fields, dir: { in: 'PORT.DIR', through: 'PORT.WISH', at: 'b', bits: 1 } },
    };
    expect(proven(recipe, lamp).messages[0]).toMatch(
      /field dir of A0 in PA\.DIR ends as something that cannot be said/,
    );
    const waiting = { ...recipe, stages: [...(plain.stages ?? []), { id: 'settle', do: ['wait 9 cycles'] }] };
    expect(proven(waiting, lamp).messages).toEqual([]);
  });
  test('what arrives while the code waits is looked at as it arrives', () => {
    const block = port([
      { id: 'WISH', offset: '0', bits: 8 },
      { id: 'DIR', offset: '4', bits: 8, access: 'read', follows: 'WISH after 3 cycles' },
      { id: 'NEXT', offset: '1', bits: 8 },
      { id: 'LATCH', offset: '5', bits: 8, access: 'read', follows: 'NEXT after 9 cycles' },
    ]);
    const recipe: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [block] },
      fields: {
        dir: { in: 'PORT.DIR', through: 'PORT.WISH', at: 'b', bits: 1 },
        latch: { in: 'PORT.LATCH', through: 'PORT.NEXT', at: 'b', bits: 1 },
      },
    };
    const settle = { id: 'settle', do: ['wait 20 cycles'] };
    const early = { ...recipe, stages: [...(plain.stages ?? []), settle] };
    expect(proven(early, lamp, 'from-reset').messages[0]).toMatch(/A0 is driven low before it is set high/);
    const [latch, direction] = plain.stages ?? [];
    const late = { ...recipe, stages: [latch, { ...settle, id: 'between' }, direction, settle] };
    expect(proven(late as Partial<RecipeSource>, lamp, 'from-reset').messages).toEqual([]);
  });
  test('commit bits hold for halves that set and clear, and locks for an alias', () => {
    const both = port([
      { id: 'DIR', offset: '0', bits: 8 },
      { id: 'LATCH', offset: '2', bits: 16, writableWhere: 'MAY' },
      { id: 'BOTH', offset: '4', bits: 32, access: 'set and clear of LATCH' },
      { id: 'MAY', offset: '8', bits: 16 },
    ]);
    const halves: Partial<RecipeSource> = {
      ...plain,
      registers: { blocks: [both] },
      fields: {
        ...plain.fields,
        latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.BOTH', clearedBy: 'PORT.BOTH' },
      },
    };
    expect(proven(halves, lamp).failures[0]).toMatchObject({ kind: 'lost', register: { name: 'PA.BOTH' } });
    const aliased = port([
      ...dirAndLatch,
      { id: 'MODE', offset: '4', bits: 8 },
      { id: 'AGAIN', offset: '5', bits: 8, access: 'alias of MODE' },
      { id: 'KEY', offset: '6', bits: 8, access: 'key 0x5A opens MODE' },
    ]);
    const stages = [
      { id: 'mode', per: 'port' as const, do: ['PORT.AGAIN bit 0 := 1'] },
      ...(plain.stages ?? []),
    ];
    expect(proven({ ...plain, registers: { blocks: [aliased] }, stages }, lamp).messages[0]).toBe(
      'operation 1 (stage mode): the write to PA.AGAIN may be lost: nothing has opened PA.KEY, which may be open or shut',
    );
  });
  test('a field that no stage writes is said to stay as it was', () => {
    const recipe = { ...plain, stages: [{ id: 'direction', fields: ['dir'] }] };
    expect(proven(recipe, lamp).messages).toEqual([
      'after operation 1 (stage direction) A0 is driven low before it is set high',
    ]);
    expect(proven({ ...plain, stages: [{ id: 'latch', fields: ['latch'] }] }, lamp).messages).toEqual([
      'field dir of A0 in PA.DIR stays as it was, since nothing writes it; planned is 1',
    ]);
  });
});

test('settings that share their bits are proven for both: what was planned is among what the bits mean', () => {
  const recipe: Partial<RecipeSource> = {
    ...plain,
    settings: { mode: ['input', 'output', 'function'], level: ['low', 'high'] },
    encode: [
      { field: 'dir', from: ['mode'], table: { output: 1, '*': 0 } },
      ...(plain.encode?.slice(1) ?? []),
    ],
  };
  expect(problemsOfSmall(recipe)).toMatch(/give the same bits/);
  const device = expectOk(compileDevice(smallPart(recipe)));
  for (const style of ['preserving', 'from-reset'] as const) {
    const wishes: Record<string, Wish> = {
      A1: { mode: 'function', signal: 'UART1.RX' },
      A2: { mode: 'input' },
    };
    const planned = plannedOn(device, wishes);
    expect(prove(device, planned, lower(device, planned, style)).failures).toEqual([]);
  }
});

test('bits that steps decide end as the last step leaves them; one that only turns them leaves it open', () => {
  const block = port([
    ...dirAndLatch,
    { id: 'MODE', offset: '2', bits: 8 },
    { id: 'TURN', offset: '3', bits: 8, access: 'toggle of MODE' },
  ]);
  const recipe = (step: string): Partial<RecipeSource> => ({
    ...plain,
    registers: { blocks: [block] },
    stages: [...(plain.stages ?? []), { id: 'mode', per: 'port', do: [step] }],
  });
  expect(proven(recipe('PORT.TURN bit 3 := 1'), lamp).messages).toEqual([
    'bit 3 of PA.MODE does not end as the steps of the recipe leave it',
  ]);
  expect(proven(recipe('PORT.TURN bit 3 := 1'), lamp, 'from-reset').messages).toEqual([]);
  expect(proven(recipe('PORT.MODE bit 3 := 1'), lamp).messages).toEqual([]);
});

describe('a code in two registers', () => {
  const split = (change: Partial<RecipeSource>): Partial<RecipeSource> => ({
    ...plain,
    settings: { mode: ['input', 'output', 'function'], level: ['low', 'high'] },
    registers: {
      blocks: [
        port([...dirAndLatch, { id: 'CA', offset: '2', bits: 8 }, { id: 'CB', offset: '3', bits: 8 }]),
      ],
    },
    fields: {
      ...plain.fields,
      code: {
        parts: [
          { in: 'PORT.CA', at: 'b', bits: 1 },
          { in: 'PORT.CB', at: 'b', bits: 1 },
        ],
      },
    },
    encode: [
      { field: 'dir', from: ['mode'], table: { output: 1, '*': 0 } },
      ...(plain.encode?.slice(1) ?? []),
      { field: 'code', from: ['mode'], table: { function: 'm', '*': 0 } },
    ],
    stages: [
      { id: 'latch', fields: ['latch'] },
      { id: 'code', fields: ['code', 'dir'] },
    ],
    ...change,
  });
  const codes = (first: number, second: number) => {
    const part = smallPart(split({}));
    const functions = [
      { pad: 'B0', signal: 'UART1.TX', mux: first },
      { pad: 'B0', signal: 'UART2.TX', mux: second },
    ];
    const peripherals = [...part.peripherals, { id: 'UART2', kind: 'UART' }];
    return expectOk(loadDevice({ ...part, functions, peripherals }));
  };
  const onB0 = (device: Device) => {
    const planned = plannedOn(device, { B0: { mode: 'function', signal: 'UART1.TX' } });
    return prove(device, planned, lower(device, planned, 'from-reset')).failures.map((one) => one.message);
  };
  test('may pass through a code that selects nothing, not through one that drives the pad', () => {
    expect(onB0(codes(3, 2))).toEqual([]);
    expect(onB0(codes(3, 1))).toEqual([
      'after operation 1 (stage code) B0 its function is switched on before field code is right',
    ]);
  });
});

describe('bits without a reset value', () => {
  test('are kept by reading, and never taken for 0', () => {
    const block = port([
      { id: 'DIR', offset: '0', bits: 8, reset: '0 unknown in 0xF0' },
      { id: 'LATCH', offset: '1', bits: 8, reset: 'unknown' },
    ]);
    const { lowered, messages } = proven({ ...plain, registers: { blocks: [block] } }, lamp, 'from-reset');
    expect(messages).toEqual([]);
    expect(words(lowered.operations)).toEqual(['update PA.LATCH 0x1 0x1', 'update PA.DIR 0x1 0x1']);
  });
});

describe('on the way', () => {
  const full: Partial<RecipeSource> = {
    settings: {
      mode: ['input', 'output', 'function'],
      outputType: ['push-pull', 'open-drain'],
      pull: ['none', 'up', 'down'],
      trigger: ['none', 'rising'],
      level: ['low', 'high'],
    },
    applies: { input: ['pull', 'trigger'], output: ['level', 'outputType'], function: ['pull'], analog: [] },
    registers: {
      blocks: [
        port([
          ...dirAndLatch,
          { id: 'OPEN', offset: '2', bits: 8 },
          { id: 'ALT', offset: '3', bits: 8 },
          { id: 'CODE', offset: '4', bits: 32 },
          { id: 'UP', offset: '8', bits: 8 },
          { id: 'DOWN', offset: '9', bits: 8 },
        ]),
        {
          id: 'EDGE',
          base: '0x6000',
          registers: [
            { id: 'WHO', offset: '0', bits: 8 },
            { id: 'MASK', offset: '1', bits: 8 },
          ],
        },
      ],
    },
    fields: {
      ...plain.fields,
      open: { in: 'PORT.OPEN', at: 'b', bits: 1 },
      alt: { in: 'PORT.ALT', at: 'b', bits: 1 },
      code: { in: 'PORT.CODE', at: '4*b', bits: 4 },
      up: { in: 'PORT.UP', at: 'b', bits: 1 },
      down: { in: 'PORT.DOWN', at: 'b', bits: 1 },
      who: { in: 'EDGE.WHO', at: 'b', bits: 1, shared: true },
      mask: { in: 'EDGE.MASK', at: 'b', bits: 1, shared: true },
    },
    encode: [
      { field: 'dir', from: ['mode', 'line'], table: { 'output *': 1, 'function out|both': 1, '*': 0 } },
      { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
      { field: 'open', from: ['outputType'], table: { 'push-pull': 0, 'open-drain': 1 } },
      { field: 'alt', from: ['mode'], table: { function: 1, '*': 0 } },
      { field: 'code', from: ['mode'], table: { function: 'm', '*': 'keep' } },
      { field: 'up', from: ['pull'], table: { up: 1, '*': 0 } },
      { field: 'down', from: ['pull'], table: { down: 1, '*': 0 } },
      { field: 'who', from: ['trigger'], table: { none: 'keep', rising: 'p' } },
      { field: 'mask', from: ['trigger'], table: { none: 'keep', rising: 1 } },
    ],
  };
  const inOrder = (...stages: string[][]): Partial<RecipeSource> => ({
    ...full,
    stages: stages.map((fields, index) => ({ id: `s${index + 1}`, fields })),
  });
  const right = [['latch'], ['open'], ['up', 'down'], ['code'], ['alt'], ['dir'], ['who'], ['mask']];
  const order = (...moved: string[][]): Partial<RecipeSource> => {
    const named = moved.flat();
    return inOrder(
      ...moved,
      ...right.map((one) => one.filter((id) => !named.includes(id))).filter((one) => one.length > 0),
    );
  };
  const wishes: Record<string, Wish> = {
    A0: { mode: 'function', signal: 'UART1.TX' },
    A1: { mode: 'function', signal: 'UART1.RX', pull: 'up' },
    A2: { mode: 'output', level: 'high', outputType: 'open-drain' },
    B3: { mode: 'input', pull: 'up', trigger: 'rising' },
  };
  const failing = (recipe: Partial<RecipeSource>, style: CodeStyle = 'preserving') =>
    Object.fromEntries(proven(recipe, wishes, style).failures.map((one) => [one.pad, one.message]));

  test('nothing is wrong in the right order, in both styles', () => {
    for (const style of ['preserving', 'from-reset'] as const)
      expect(failing(inOrder(...right), style)).toEqual({});
  });
  test.each<[string, string[][], string, RegExp]>([
    [
      'an open-drain line driven push-pull',
      [['latch'], ['dir']],
      'A2',
      /is driven push-pull before it is set open-drain/,
    ],
    [
      'an output driven to the level it does not start with',
      [['open'], ['dir']],
      'A2',
      /is driven low before it is set high/,
    ],
    [
      'a function switched on before its code is right',
      [['dir'], ['alt']],
      'A0',
      /function is switched on before field code is right|driven low by its latch/,
    ],
    [
      'a function line driven by the latch',
      [['code'], ['dir']],
      'A0',
      /is driven low by its latch for a moment; planned is function/,
    ],
    [
      'an interrupt enabled before it is routed',
      [['mask']],
      'B3',
      /its interrupt is enabled before field who is right/,
    ],
  ])('%s is seen', (_name, moved, pad, message) => {
    expect(failing(order(...moved))[pad]).toMatch(message);
    expect(failing(order(...moved), 'from-reset')[pad]).toMatch(message);
  });
  test('what may be for a moment is said by the description', () => {
    const lenient = {
      ...order(['latch'], ['dir']),
      between: { outputType: ['push-pull'], mode: ['output'] },
    };
    expect(failing(lenient)).toEqual({});
  });
  test('an output drives its own level from the start, whatever its mode may be for a moment', () => {
    const lenient = { ...order(['open'], ['dir']), between: { mode: ['output'] } };
    expect(failing(lenient).A2).toMatch(/is driven low before it is set high/);
  });
  describe('what may be for a moment is limited', () => {
    const burst: Partial<RecipeSource> = {
      ...inOrder(...right),
      stages: [
        { id: 'burst', per: 'pad', do: ['PORT.DIR bit b := 1', 'PORT.DIR bit b := 0'] },
        ...(inOrder(...right).stages ?? []),
      ],
    };
    const input: Record<string, Wish> = { B3: wishes.B3 as Wish };
    const messagesWith = (entry: Partial<BetweenSource>): string[] =>
      proven({ ...burst, between: [{ setting: 'mode', values: ['output'], ...entry }] }, input, 'from-reset')
        .messages;
    test.each<[string, Partial<BetweenSource>, boolean]>([
      ['to the stage that does it', { stages: ['burst'] }, true],
      ['to another stage', { stages: ['s1'] }, false],
      ['to pads that are planned so', { settings: { mode: 'input' } }, true],
      ['to pads that are planned otherwise', { settings: { mode: 'function' } }, false],
      ['to a class', { classes: ['std'] }, true],
      ['to another class', { classes: ['odd'] }, false],
      ['by a condition', { where: 'b < 4' }, true],
      ['by a condition that does not hold', { where: 'b > 4' }, false],
    ])('%s', (_name, entry, allowed) => {
      const messages = messagesWith(entry);
      if (allowed) expect(messages).toEqual([]);
      else expect(messages[0]).toMatch(/B3 is driven .* for a moment; planned is input/);
    });
    test('and what it names must be there', () => {
      const problems = (entry: Partial<BetweenSource>): string =>
        problemsOfSmall({ ...burst, between: [{ setting: 'mode', values: ['output'], ...entry }] });
      expect(problems({ stages: ['brust'] })).toBe(
        'recipe, between 1: there is no stage brust; did you mean burst?',
      );
      expect(problems({ classes: ['sdt'] })).toContain('there is no pad class sdt');
      expect(problems({ values: ['outptu'] })).toBe('recipe, between 1: "outptu" is no value of mode');
      expect(problems({ settings: { mode: 'inptu' } })).toContain('"inptu" is no value of mode');
    });
  });
  test('a planned input driven for a moment by steps of the recipe is seen', () => {
    const recipe: Partial<RecipeSource> = {
      ...inOrder(...right),
      stages: [
        {
          id: 'burst',
          per: 'pad',
          do: ['PORT.ALT bit b := 0', 'PORT.DIR bit b := 1', 'PORT.DIR bit b := 0'],
        },
        ...(inOrder(...right).stages ?? []),
      ],
    };
    expect(failing(recipe).B3).toMatch(
      /B3 is driven push-pull|B3 is driven low by its latch for a moment; planned is input/,
    );
  });
  test('a pad that nobody plans may not be driven on the way either', () => {
    const recipe: Partial<RecipeSource> = {
      ...inOrder(...right),
      stages: [
        { id: 'burst', per: 'port', do: ['PORT.DIR := 0xFF', 'PORT.DIR := 0'] },
        ...(inOrder(...right).stages ?? []),
      ],
    };
    const { messages } = proven(recipe, { A2: wishes.A2 as Wish }, 'from-reset');
    expect(messages[0]).toMatch(
      /after operation 1 \(stage burst\) A\d, which is not planned, is driven low by its latch for a moment|A2 is driven low/,
    );
  });
  describe('invariants', () => {
    const never = (recipe: Partial<RecipeSource>): Partial<RecipeSource> => ({
      ...recipe,
      invariants: [{ never: 'up and down', why: 'current flows from supply to ground' }],
    });
    const pulled: Record<string, Wish> = {
      A0: { mode: 'input', pull: 'up' },
      A1: { mode: 'input', pull: 'down' },
    };
    test('two bits that may never be 1 at once are watched from every state that keeps to it', () => {
      // One after the other cannot be right for both pads: A0 goes up before its down is off, or A1 the other way round.
      const { failures } = proven(never(inOrder(...right)), pulled);
      expect(failures).toMatchObject([
        {
          pad: 'A0',
          kind: 'invariant',
          message:
            'after operation 2 (stage s3) A0 breaks "never up and down" (current flows from supply to ground)',
        },
      ]);
      expect(proven(never(inOrder(...right)), pulled, 'from-reset').messages).toEqual([]);
      expect(proven(never(order(['down'], ['up'])), { A0: { mode: 'input', pull: 'up' } }).messages).toEqual(
        [],
      );
    });
    test('a field that must be steady while another is on', () => {
      const steady = (recipe: Partial<RecipeSource>): Partial<RecipeSource> => ({
        ...recipe,
        invariants: [{ steady: ['code'], while: 'alt = 1' }],
      });
      expect(proven(steady(inOrder(...right)), { A0: wishes.A0 as Wish }, 'from-reset').messages).toEqual([]);
      // From every state: the function may have been on with another code.
      expect(proven(steady(inOrder(...right)), { A0: wishes.A0 as Wish }).messages[0]).toBe(
        'after operation 4 (stage s4) A0 breaks "code steady while alt = 1"',
      );
    });
    test.each<[string, NonNullable<RecipeSource['invariants']>[number], RegExp]>([
      [
        'an unknown field',
        { never: 'up and sideways' },
        /recipe, invariant 1, column 1: there is no field sideways/,
      ],
      ['both forms', { never: 'up', steady: ['up'] }, /say either what must "never" be/],
      ['neither', { why: 'x' }, /say either what must "never" be/],
      ['more bits than can be tried', { never: 'wide > 3' }, /it looks at 16 bits; at most 12 can be tried/],
      ['a broken condition', { never: 'up and' }, /recipe, invariant 1, column 7/],
    ])('%s is refused', (_name, invariant, message) => {
      const wide = { in: 'EDGE.WIDE', at: '0', bits: 16, shared: true };
      const recipe = { ...inOrder(...right), invariants: [invariant] };
      const blocks = structuredClone(recipe.registers?.blocks ?? []);
      blocks[1]?.registers.push({ id: 'WIDE', offset: '4', bits: 16 });
      expect(
        problemsOfSmall({ ...recipe, registers: { blocks }, fields: { ...recipe.fields, wide } }),
      ).toMatch(message);
    });
    test('values that may be for a moment are values of the setting', () => {
      expect(problemsOfSmall({ ...inOrder(...right), between: { pull: ['sideways'] } })).toMatch(
        /recipe, between, pull: "sideways" is no value of pull/,
      );
    });
  });
});

describe('what is refused when a description is loaded', () => {
  const withRegister = (
    register: RegisterSource,
    change: Partial<RecipeSource> = {},
  ): Partial<RecipeSource> => ({
    ...plain,
    registers: { blocks: [port([...dirAndLatch, register])] },
    ...change,
  });
  const step = (text: string, register: RegisterSource): Partial<RecipeSource> =>
    withRegister(register, { stages: [{ id: 'x', per: 'port', do: [text] }, ...(plain.stages ?? [])] });
  const inRegister = (register: RegisterSource): Partial<RecipeSource> =>
    withRegister(register, { fields: { ...plain.fields, dir: { in: 'PORT.X', at: 'b', bits: 1 } } });
  test.each<[string, Partial<RecipeSource>, RegExp]>([
    [
      'a field in the mask half of a masked register',
      {
        ...inRegister({ id: 'X', offset: '4', bits: 16, access: 'masked' }),
        fields: { ...plain.fields, dir: { in: 'PORT.X', at: '8 + b', bits: 1 } },
      },
      /bits 8…8 leave PA\.X at 0x1004 \(8 bits: its upper half says which are written\)/,
    ],
    [
      'a masked register with a reset value in its upper half',
      withRegister({ id: 'X', offset: '4', bits: 16, access: 'masked', reset: '0xFF00' }),
      /reset value of PA\.X does not fit its lower half/,
    ],
    [
      'an internal register in a step',
      step('PORT.X := 1', { id: 'X', offset: '4', bits: 8, access: 'internal' }),
      /stage x, step 1, port A: PA\.X is internal: the bus does not reach it/,
    ],
    [
      'a step that writes what can only be read',
      step('PORT.X bit 0 := 1', { id: 'X', offset: '4', bits: 8, access: 'read' }),
      /PA\.X can only be read/,
    ],
    [
      'waiting for what cannot be read',
      step('await PORT.X bit 0 = 1 within 5', { id: 'X', offset: '4', bits: 8, access: 'strobe' }),
      /PA\.X cannot be read/,
    ],
    [
      'a step on a register of which there are several',
      { ...plain, stages: [{ id: 'x', do: ['PORT.DIR := 1'] }, ...(plain.stages ?? [])] },
      /there is one PORT\.DIR for each port, and here it is not said which/,
    ],
    [
      'a step on a register that is not there',
      { ...plain, stages: [{ id: 'x', do: ['PORT.NIL := 1'] }, ...(plain.stages ?? [])] },
      /stage x, step 1: there is no register PORT\.NIL/,
    ],
    [
      'a step beyond its register',
      step('PORT.DIR bits 6 to 8 := 1', { id: 'X', offset: '4', bits: 8 }),
      /bits 6 to 8 are not within the 8 bits of PA\.DIR/,
    ],
    [
      'a value that does not fit',
      step('PORT.DIR bits 0 to 1 := 4', { id: 'X', offset: '4', bits: 8 }),
      /4 does not fit 2 bits of PA\.DIR/,
    ],
    [
      'a field kept in a register that sets bits of another',
      inRegister({ id: 'X', offset: '4', bits: 8, access: 'set of LATCH' }),
      /field dir: PA\.X holds no bits of its own \(set\)/,
    ],
    [
      'a field written in a register that can only be read',
      inRegister({ id: 'X', offset: '4', bits: 8, access: 'read' }),
      /PA\.X cannot be written; "through" names the register that the field is written in/,
    ],
    [
      'a field set by a register that sets another',
      withRegister(
        { id: 'X', offset: '4', bits: 8, access: 'set of DIR' },
        { fields: { ...plain.fields, latch: { in: 'PORT.LATCH', at: 'b', bits: 1, setBy: 'PORT.X' } } },
      ),
      /"set by" names PA\.X, which does not do that to PA\.LATCH/,
    ],
    [
      'a set register of another width',
      withRegister({ id: 'X', offset: '4', bits: 16, access: 'set of LATCH' }),
      /PA\.X reaches 16 bits, but PA\.LATCH has 8/,
    ],
    [
      'an alias of a register that cannot be read',
      withRegister(
        { id: 'X', offset: '4', bits: 16, access: 'alias of M' },
        {
          registers: {
            blocks: [
              port([
                ...dirAndLatch,
                { id: 'M', offset: '6', bits: 16, access: 'masked' },
                { id: 'X', offset: '4', bits: 16, access: 'alias of M' },
              ]),
            ],
          },
        },
      ),
      /PA\.M is masked; an alias is of a register that can be read/,
    ],
    [
      'a set register of one that holds nothing',
      withRegister({ id: 'X', offset: '4', bits: 8, access: 'set of X' }),
      /PA\.X holds no bits for PA\.X to act on/,
    ],
    [
      'reset values that contradict each other',
      {
        ...plain,
        registers: {
          blocks: [
            port([
              { id: 'DIR', offset: '0', bits: 8, reset: '1' },
              { id: 'LATCH', offset: '1', bits: 8 },
              { id: 'X', offset: '0', bits: 16, overlaps: 'DIR, LATCH' },
            ]),
          ],
        },
      },
      /PA\.X and PA\.DIR show the same bits, but have different reset values|PA\.DIR and PA\.X/,
    ],
    [
      'a field that drives, but is not there',
      { ...plain, access: { latch: 'nil' } },
      /recipe, access, latch: there is no field nil/,
    ],
    [
      'registers that follow each other in a circle',
      {
        ...plain,
        registers: {
          blocks: [
            port([
              ...dirAndLatch,
              { id: 'X', offset: '4', bits: 8, access: 'read', follows: 'Y' },
              { id: 'Y', offset: '5', bits: 8, access: 'read', follows: 'X' },
            ]),
          ],
        },
      },
      /register [XY]: PA\.[XY] follows itself/,
    ],
    [
      'two stages of one name',
      { ...plain, stages: [...(plain.stages ?? []), { id: 'latch' }] },
      /recipe, stage latch: there are two stages of this name/,
    ],
  ])('%s', (_name, recipe, message) => {
    expect(problemsOfSmall(recipe)).toMatch(message);
  });
  test('a start that means nothing is no excuse for a wrong level on the way', () => {
    // Out of reset B7 is set to analog, which it has not.
    const plan = planOf([
      { name: 'FAN', role: { kind: 'output' }, placement: on('B7'), settings: { active: 'low' } },
    ]);
    const derived = deriveOn({ ...plan, code: { ...plan.code, style: 'from-reset' } });
    const operations = [...derived.lowered.operations];
    const latch = operations.findIndex((one) => 'register' in one && one.register.name === 'PB.OUT');
    operations.splice(operations.length - 2, 0, ...operations.splice(latch, 1));
    const proof = prove(derived.device, derived.planned, { ...derived.lowered, operations });
    expect(proof.failures).toMatchObject([{ pad: 'B7', kind: 'on-the-way' }]);
    expect(proof.failures[0]?.message).toMatch(/B7 is driven low before it is set high/);
  });
});

describe('two registers at one address, of which one sets and the other clears', () => {
  const pulls = (clearing: { up: string; down: string }): Partial<RecipeSource> => ({
    settings: { mode: ['input', 'output'], pull: ['none', 'up', 'down'] },
    applies: { input: ['pull'], output: [], function: [], analog: [] },
    registers: {
      blocks: [
        port([
          { id: 'DIR', offset: '0', bits: 8 },
          { id: 'UP', offset: '1', bits: 8, access: 'read' },
          { id: 'DOWN', offset: '2', bits: 8, access: 'read' },
          // A strobe that pulls up ends pulling down, and the other way about; a third one ends both.
          { id: 'PULLUP', offset: '4', bits: 8, access: 'set of UP' },
          { id: 'UPENDS', offset: '4', bits: 8, access: 'clear of DOWN', overlaps: 'PULLUP' },
          { id: 'PULLDOWN', offset: '5', bits: 8, access: 'set of DOWN' },
          { id: 'DOWNENDS', offset: '5', bits: 8, access: 'clear of UP', overlaps: 'PULLDOWN' },
          { id: 'NOUP', offset: '6', bits: 8, access: 'clear of UP' },
          { id: 'NODOWN', offset: '6', bits: 8, access: 'clear of DOWN', overlaps: 'NOUP' },
        ]),
      ],
    },
    fields: {
      dir: { in: 'PORT.DIR', at: 'b', bits: 1 },
      up: { in: 'PORT.UP', at: 'b', bits: 1, setBy: 'PORT.PULLUP', clearedBy: clearing.up },
      down: { in: 'PORT.DOWN', at: 'b', bits: 1, setBy: 'PORT.PULLDOWN', clearedBy: clearing.down },
    },
    access: {},
    encode: [
      { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
      { field: 'up', from: ['pull'], table: { up: 1, '*': 0 } },
      { field: 'down', from: ['pull'], table: { down: 1, '*': 0 } },
    ],
    stages: [
      { id: 'direction', fields: ['dir'] },
      { id: 'down', fields: ['down'] },
      { id: 'up', fields: ['up'] },
    ],
  });
  const wishes = {
    A0: { mode: 'input', pull: 'up' },
    A1: { mode: 'input', pull: 'down' },
    A2: { mode: 'input', pull: 'none' },
  };
  const provenIn = (recipe: Partial<RecipeSource>, style: CodeStyle) => {
    const device = loadSmall(recipe);
    const planned = plannedOn(device, wishes);
    const lowered = lower(device, planned, style);
    return prove(device, planned, lowered);
  };

  test('what ends both is not asked for a pad that has just been pulled, which proves it', () => {
    const { failures } = provenIn(pulls({ up: 'PORT.NOUP', down: 'PORT.NODOWN' }), 'preserving');
    expect(failures).toEqual([]);
  });
  test('asked for it nevertheless, it ends that pull, whichever of the two registers is named', () => {
    const device = loadSmall(pulls({ up: 'PORT.NOUP', down: 'PORT.NODOWN' }));
    const planned = plannedOn(device, wishes);
    const lowered = lower(device, planned, 'preserving');
    const register = device.registers.byName.get('PA.NOUP');
    if (!register) throw new Error('no PA.NOUP');
    const more: Operation = {
      kind: 'write',
      register,
      value: 2,
      stage: 'up',
      pads: [{ pad: 'A1', mask: 2, value: 0 }],
    };
    const { failures } = prove(device, planned, { ...lowered, operations: [...lowered.operations, more] });
    expect(failures.map(({ message }) => message)).toContain(
      'field down of A1 in PA.DOWN ends as 0; planned is 1',
    );
  });
  test('cleared by the strobe of the other pull, it is right for those that pull, and not for one that does not', () => {
    const { failures } = provenIn(pulls({ up: 'PORT.DOWNENDS', down: 'PORT.UPENDS' }), 'preserving');
    expect(failures.map(({ message }) => message)).toEqual([
      'after operation 3 (stage down) A2 is pulled up for a moment; planned is pull none',
    ]);
  });
});

describe('right code is not refused', () => {
  const STYLES: readonly CodeStyle[] = ['from-reset', 'preserving'];
  test.each(STYLES)('a flag is cleared in a register whose other bits can only be read (%s)', (style) => {
    const { messages } = proven(
      {
        ...plain,
        registers: {
          blocks: [
            port([
              ...dirAndLatch,
              { id: 'FLAG', offset: '2', bits: 8, clearedByOne: '0x0F', readOnly: '0xF0' },
            ]),
          ],
        },
        stages: [{ id: 'clear', per: 'port', do: ['PORT.FLAG bit 1 := 1'] }, ...(plain.stages ?? [])],
      },
      { A1: { mode: 'output', level: 'high' } },
      style,
    );
    expect(messages).toEqual([]);
  });
  test.each(STYLES)('reserved bits are given their value in a register that guards itself (%s)', (style) => {
    const { messages } = proven(
      {
        ...plain,
        registers: {
          blocks: [
            port([
              { id: 'DIR', offset: '0', bits: 16, always: '0x4000 in 0x4000', reset: '0x4000' },
              { id: 'LATCH', offset: '2', bits: 8 },
            ]),
          ],
          guards: [{ block: 'PORT', registers: ['DIR'], openWhen: 'PORT.DIR bit 15', stops: 'writes' }],
        },
        stages: [
          { id: 'open', per: 'port', do: ['PORT.DIR bit 15 := 1'] },
          ...(plain.stages ?? []),
          { id: 'shut', per: 'port', do: ['PORT.DIR bit 15 := 0'] },
        ],
      },
      { A1: { mode: 'output', level: 'high' } },
      style,
    );
    expect(messages).toEqual([]);
  });
  const drain: Partial<RecipeSource> = {
    ...plain,
    settings: { ...plain.settings, outputType: ['push-pull', 'open-drain'] },
    applies: { input: [], output: ['level', 'outputType'], function: [], analog: [] },
    registers: {
      blocks: [
        port([
          { id: 'DIR', offset: '0', bits: 8 },
          { id: 'LATCH', offset: '1', bits: 8, reset: '0xFF' },
          { id: 'OPEN', offset: '2', bits: 8 },
        ]),
      ],
    },
    fields: { ...plain.fields, open: { in: 'PORT.OPEN', at: 'b', bits: 1 } },
    encode: [
      ...(plain.encode ?? []),
      { field: 'open', from: ['mode', 'outputType'], table: { 'output open-drain': 1, '*': 0 } },
    ],
  };
  test('a released open drain is not driven high', () => {
    const stages = [
      { id: 'open', fields: ['open'] },
      { id: 'direction', fields: ['dir'] },
      { id: 'latch', fields: ['latch'] },
    ];
    const wish: Wish = { mode: 'output', level: 'low', outputType: 'open-drain' };
    expect(proven({ ...drain, stages }, { A1: wish }, 'from-reset').messages).toEqual([]);
    const late = [
      { id: 'direction', fields: ['dir'] },
      { id: 'open', fields: ['open'] },
      { id: 'latch', fields: ['latch'] },
    ];
    expect(proven({ ...drain, stages: late }, { A1: wish }, 'from-reset').messages[0]).toContain(
      'A1 is driven high before it is set low',
    );
  });
});

test('a bit that is turned, and not the plan’s, is a stray, also where it is turned twice', () => {
  const { lowered, device } = proven(plain, lamp);
  const [first] = lowered.operations;
  const register = first && 'register' in first ? first.register : undefined;
  expect(register).toBeDefined();
  const turned: Operation = { kind: 'flip', stage: 'direction', pads: [], register: register!, mask: 0x80 };
  const planned = plannedOn(device, lamp);
  const { failures } = prove(device, planned, { ...lowered, operations: [...lowered.operations, turned] });
  expect(failures.map(({ message }) => message)).toEqual([expect.stringMatching(/changes bits 0x80 of/)]);
  const twice = [...lowered.operations, turned, turned];
  expect(prove(device, planned, { ...lowered, operations: twice }).failures[0]?.kind).toBe('stray');
});
