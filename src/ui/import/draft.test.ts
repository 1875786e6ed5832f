import { loadDevice } from '@/core/device/compile/load';
import { readDraft, restOf, withCell, withCells, withHeadings } from '@/core/import/compose/draft';
import type { Grid } from '@/core/import/tables/grid';
import { guessMapping } from '@/core/import/tables/guess';
import { readText } from '@/core/import/tables/read-text';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { draftOf } from './draft-of';
import { groupProblems } from './problem-list';

const grid = (text: string): Grid => expectOk(readText('t', text));
const cells = (made: Grid): string[][] => made.rows.map((row) => row.cells);

describe('a table that is edited', () => {
  const start = grid('a,b\n1,2\n3,4');
  test('a cell changes, nothing else; a short row grows', () => {
    expect(cells(withCell(start, 2, 1, 'x'))).toEqual([
      ['a', 'b'],
      ['1', 'x'],
      ['3', '4'],
    ]);
    expect(cells(withCell(start, 2, 4, 'x'))[1]).toEqual(['1', '2', '', '', 'x']);
    expect(withCell(start, 99, 0, 'x').rows).toEqual(start.rows);
    expect(cells(start)[1]).toEqual(['1', '2']);
  });
  test('cells from the clipboard are laid over it; what goes over its end falls away', () => {
    expect(cells(withCells(start, { line: 2, column: 1 }, 'x\ty\nz\tw\nlost\tlost\n'))).toEqual([
      ['a', 'b'],
      ['1', 'x', 'y'],
      ['3', 'z', 'w'],
    ]);
    expect(withCells(start, { line: 77, column: 0 }, 'x')).toBe(start);
  });
});

describe('the row of the headings', () => {
  const made = grid('Table 3,,\nPad,Type,Q4\nA0,I/O,1\nA1,I/O,2\nVDD,S,3\nVSS,G,4');
  const mapping = guessMapping('pinout', made, { unknown: 'ignore' });
  test('is found, and the roles follow when another is chosen', () => {
    expect(mapping.headerRow).toBe(1);
    const other = withHeadings('pinout', made, mapping, 2);
    expect(other.headerRow).toBe(2);
    expect(withHeadings('pinout', made, other, 1).roles).toEqual(mapping.roles);
  });
  test('none leaves the roles as they are', () => {
    expect(withHeadings('pinout', made, mapping, -1)).toEqual({ headerRow: -1, roles: mapping.roles });
    expect(withHeadings('pinout', made, mapping, 1)).toBe(mapping);
  });
});

describe('problems', () => {
  const at = (line: number, message: string, severity: 'error' | 'warning' = 'error') => ({
    line,
    message,
    severity,
  });
  test('alike are told once, errors before warnings, the first place of each', () => {
    const groups = groupProblems([
      at(5, 'slip', 'warning'),
      at(7, 'no supply VXX'),
      at(9, 'no supply VXX'),
      at(2, 'no class'),
    ]);
    expect(groups.map((one) => [one.message, one.all.map(({ line }) => line)])).toEqual([
      ['no supply VXX', [7, 9]],
      ['no class', [2]],
      ['slip', [5]],
    ]);
  });
  test('about different words are not alike', () => {
    const word = (one: string) => ({ ...at(1, 'is no signal'), word: one });
    expect(groupProblems([word('A'), word('B'), word('A')])).toHaveLength(2);
  });
});

describe.each(FAMILIES)('%s as a draft', (folder) => {
  test('gives the same part again', () => {
    const { original, fingerprint } = family(folder);
    const { description, errors } = readDraft(draftOf(original));
    expect(errors).toBe(0);
    expect(description && expectOk(loadDevice(description)).fingerprint).toBe(fingerprint);
  });
});

describe('a part as a draft', () => {
  const { original } = family('corvane-c40');
  test('gives the same part again, sources included', () => {
    const { description, errors } = readDraft(draftOf(original));
    expect(errors).toBe(0);
    expect(description && expectOk(loadDevice(description)).fingerprint).toBe(
      family('corvane-c40').fingerprint,
    );
    expect(description?.pads.map((pad) => pad.source)).toEqual(original.pads.map((pad) => pad.source));
    expect(description?.functions.map((fn) => fn.source)).toEqual(original.functions.map((fn) => fn.source));
  });
  test('another table has sources of its own', () => {
    const draft = draftOf(original);
    if (!draft.pinout) throw new Error('no pinout');
    const { kept: _old, ...table } = draft.pinout;
    const { description } = readDraft({
      ...draft,
      pinout: { ...table, source: { document: 'revision 9', page: 12 } },
    });
    expect(description?.pads[0]?.source).toEqual({ document: 'revision 9', page: 12, row: 2 });
  });
  test('corrections and numbers of an attached recipe come along', () => {
    const correction = { id: 'c', what: ['note', '1'], from: null, to: 'x', why: 'w', who: '', when: '' };
    const draft = { ...draftOf(original), corrections: [correction], padColumns: { B7: { base: 64 } } };
    const { description } = readDraft(draft);
    expect(description?.corrections).toEqual([correction]);
    expect(description?.pads.find((pad) => pad.id === 'B7')?.columns).toEqual({ base: 64 });
  });
  test('a recipe file is what is said beside the tables', () => {
    const { packages, supplies, padClasses, peripheralKinds, peripherals, notes, recipe } = original;
    const bare = packages.map(({ pins: _table, ...one }) => one);
    const rest = restOf({
      packages: bare,
      supplies,
      padClasses,
      peripheralKinds,
      peripherals,
      notes,
      recipe,
    });
    expect(Object.keys(rest.packages)).toEqual(packages.map((one) => one.id));
    expect(rest.recipe).toBe(recipe);
    expect(
      restOf({ ...rest, packages: bare, supplies, peripherals, recipe: { ...recipe, encode: [] } }).recipe,
    ).toBeNull();
  });
  test('packages that no column speaks of any more fall away', () => {
    const draft = draftOf(original);
    if (!draft.pinout) throw new Error('no pinout');
    const roles = draft.pinout.mapping.roles.map((role) => (role === 'pin:q64' ? 'ignore' : role));
    const { description } = readDraft({
      ...draft,
      pinout: { ...draft.pinout, mapping: { ...draft.pinout.mapping, roles } },
    });
    expect(description?.packages.map((one) => one.id)).toEqual(['q100', 'q144']);
  });
});
