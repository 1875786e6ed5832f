import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newId } from '@/core/base/text/new-id';
import { printPartText } from '@/core/description/part-text/text-form';
import type { Correction, DeviceDescription } from '@/core/description/types';
import { compileDevice } from '@/core/device/compile/compile';
import type { Device } from '@/core/device/device';
import { parseDevice } from '@/core/import/compose/device-files';
import { previewChange } from '@/core/part-change/change-part';
import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { corvane, frostGuard } from '@/testing/frost-guard';
import { closeServer } from './close';
import { query } from './db';
import { appendEdit } from './edit-log';
import { rememberedMapping, rememberMapping } from './mappings';
import {
  findPart,
  findPlanPart,
  listParts,
  partText,
  plansOfPart,
  readPart,
  removePart,
  storeCorrections,
  storePart,
  versionsOfPart,
  workOnPart,
} from './parts';
import { createPlan, readPlan, storePlan } from './plans';
import { storeShippedParts } from './shipped';

/** Against the real PostgreSQL; the launcher has put the shipped parts into it. */
afterAll(closeServer);

/** A part of one's own, under an id that nobody else has. */
const ownPart = (change: Partial<DeviceDescription> = {}): DeviceDescription => ({
  ...structuredClone(family('pellin-p8').original),
  id: `own-${newId()}`,
  name: 'Own part',
  ...change,
});
const correction = (change: Partial<Correction> = {}): Correction => ({
  id: newId(),
  what: ['function', 'K0', 'SPI1.SCK'],
  from: '1',
  to: '3',
  why: 'erratum 4',
  who: 'R. Lind',
  when: '2026-11-25T08:00:00Z',
  ...change,
});
/** A stored part, compiled. */
const partDevice = async (id: string, fingerprint?: string): Promise<Device | undefined> => {
  const part = await findPart(id, fingerprint);
  return part && expectOk(compileDevice(JSON.parse(await partText(part))));
};
const present = <T>(value: T | undefined): T => {
  if (value === undefined) throw new Error('is not there');
  return value;
};

describe('the shipped parts', () => {
  test('are in the database, with what lists show', async () => {
    const parts = await listParts();
    const part = present(parts.find((one) => one.id === 'corvane-c40-80'));
    expect(part).toMatchObject({
      shipped: true,
      fingerprint: corvane().fingerprint,
      recipe: true,
      ioPads: 112,
    });
    expect(part.packages.map((one) => [one.id, one.pins])).toEqual([
      ['q100', 100],
      ['q144', 144],
      ['q64', 64],
    ]);
    expect(parts.filter((one) => one.shipped).length).toBeGreaterThanOrEqual(8);
  });

  test('keep the order of ports and value tables, which means something', async () => {
    const stored = present(await partDevice('velm-v3-80'));
    const shipped = family('velm-v3').original;
    expect(Object.keys(stored.original.recipe.ports)).toEqual(Object.keys(shipped.recipe.ports));
    expect(stored.original.recipe.encode.map((rule) => Object.keys(rule.table))).toEqual(
      shipped.recipe.encode.map((rule) => Object.keys(rule.table)),
    );
  });

  test('come anew when their folder has changed, and only then; corrections stay', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'mavrek-devices-'));
    try {
      const own = join(folder, 'own');
      cpSync('devices/pellin-p8', own, { recursive: true });
      const id = `shipped-${newId()}`;
      const edit = (file: string, from: string | RegExp, to: string): void => {
        const path = join(own, file);
        writeFileSync(path, readFileSync(path, 'utf8').replace(from, to));
      };
      edit('recipe.part', 'pellin-p8-22', id);
      await storeShippedParts(folder);
      expect((await readPart(id))?.summary).toMatchObject({ revision: 1, shipped: true });
      await storeShippedParts(folder);
      expect((await readPart(id))?.summary.revision).toBe(1);
      expectOk(present(await storeCorrections(id, [correction()], 1)));
      edit('pinout.csv', 'LOADER', 'STARTER');
      await storeShippedParts(folder);
      const after = present(await readPart(id));
      expect(after.summary).toMatchObject({ revision: 3, corrections: 1, shipped: true });
      expect(after.description.pads.find((pad) => pad.id === 'K5')?.aliases).toEqual(['STARTER']);

      // What a user has imported over it stays.
      expectOk(await storePart({ ...after.description, summary: 'mine' }));
      edit('pinout.csv', 'STARTER', 'LOADER');
      await storeShippedParts(folder);
      expect((await readPart(id))?.summary).toMatchObject({ shipped: false, summary: 'mine' });
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});

describe('a part of the user', () => {
  test('is stored, read back as it was, and taken out', async () => {
    const description = ownPart();
    expect(expectOk(await storePart(description, { expected: 0 }))).toMatchObject({ revision: 1 });
    expect((await readPart(description.id))?.description).toEqual(description);
    expect(await removePart(description.id)).toMatchObject({ ok: true });
    expect(await readPart(description.id)).toBeUndefined();
    expect(await removePart(description.id)).toBeUndefined();
  });

  test('comments of its text are kept and go out, also where nothing else was changed', async () => {
    const description = ownPart();
    const text = printPartText(description);
    const goesOut = async (as: 'text' | 'json'): Promise<string> => {
      const out = expectOk(await workOnPart('exportPart', present(await findPart(description.id)), { as }));
      return String(out.body);
    };
    const fingerprints = new Set<string>();
    for (const [revision, comment] of ['# by the first print', '# by the second print'].entries()) {
      const commented = `${comment}\n${text}`;
      const stored = expectOk(
        await storePart(expectOk(parseDevice('own.part', commented)), { expected: revision }),
      );
      fingerprints.add(stored.fingerprint);
      expect(await goesOut('text')).toBe(commented);
      expect(JSON.parse(await goesOut('json')).text).toBe(commented);
    }
    // A comment is no change of the part: plans stay on it.
    expect(fingerprints.size).toBe(1);
  });

  test('that does not hold together is refused, and nothing is stored', async () => {
    const description = ownPart();
    description.recipe.fields = { ...description.recipe.fields, dir: { in: 'PORT.DR', at: 'b +', bits: 1 } };
    const result = await storePart(description);
    expect(result.ok ? '' : result.problems[0]?.place).toBe('recipe, field dir, column 4');
    expect(await readPart(description.id)).toBeUndefined();
  });

  test('is not overwritten by somebody who saw an older one', async () => {
    const description = ownPart();
    expectOk(await storePart(description, { expected: 0 }));
    expect(await storePart(description, { expected: 0 })).toMatchObject({
      ok: false,
      problems: [{ place: 'part', message: expect.stringMatching(/was changed meanwhile/) }],
    });
    expectOk(await storePart({ ...description, summary: 'new' }, { expected: 1 }));
    expect(await storeCorrections(description.id, [], 1)).toMatchObject({ ok: false });
  });

  test('is not taken out while a plan uses it', async () => {
    const description = ownPart();
    expectOk(await storePart(description));
    expectOk(await createPlan('On my own part', description.id, 'd28'));
    expect(await removePart(description.id)).toMatchObject({
      ok: false,
      problems: [{ message: `${description.id} is used by On my own part` }],
    });
  });

  test('keeps hostile texts as texts', async () => {
    const name = `'); drop table parts; -- <script>`;
    const description = ownPart({ name, maker: '\u0001"\\' });
    expectOk(await storePart(description));
    expect((await readPart(description.id))?.summary.name).toBe(name);
    expect((await listParts()).length).toBeGreaterThan(8);
  });
});

describe('corrections', () => {
  test('change what the part is; the original and every version stay', async () => {
    const description = ownPart();
    const first = expectOk(await storePart(description));
    const second = expectOk(present(await storeCorrections(description.id, [correction()], first.revision)));
    expect(second.fingerprint).not.toBe(first.fingerprint);
    const today = present(await partDevice(description.id));
    const codes = (functions: DeviceDescription['functions']) =>
      functions.filter((fn) => fn.pad === 'K0' && fn.signal === 'SPI1.SCK').map((fn) => fn.mux);
    expect([codes(today.description.functions), codes(today.original.functions)]).toEqual([[3], [1]]);
    expect(present(await partDevice(description.id, first.fingerprint)).fingerprint).toBe(first.fingerprint);
    expect((await versionsOfPart(description.id)).map((one) => one.fingerprint).sort()).toEqual(
      [first.fingerprint, second.fingerprint].sort(),
    );
    const third = expectOk(present(await storeCorrections(description.id, [], second.revision)));
    expect(third.fingerprint).toBe(first.fingerprint);
  });

  test('are applied again after a new import, and reported when they match no longer', async () => {
    const description = ownPart();
    const { revision } = expectOk(await storePart(description));
    expectOk(present(await storeCorrections(description.id, [correction()], revision)));
    expectOk(await storePart({ ...description, summary: 'second import' }));
    expect(present(await partDevice(description.id)).unapplied).toEqual([]);
    const changed = structuredClone(description);
    for (const fn of changed.functions) if (fn.pad === 'K0' && fn.signal === 'SPI1.SCK') fn.mux = 2;
    expectOk(await storePart({ ...changed, summary: 'third import' }));
    const device = present(await partDevice(description.id));
    expect(device.unapplied).toMatchObject([
      { kind: 'changed', why: expect.stringContaining('says "2" now') },
    ]);
    expect(device.original.corrections).toHaveLength(1);
  });

  test('that would break the part are refused', async () => {
    const description = ownPart();
    const { revision } = expectOk(await storePart(description));
    const bad = correction({ what: ['field', 'dir', 'at'], from: 'b', to: 'b + 99' });
    const result = present(await storeCorrections(description.id, [bad], revision));
    expect(result.ok ? '' : result.problems[0]?.message).toMatch(/leave/);
    expect((await readPart(description.id))?.summary.revision).toBe(revision);
  });
});

describe('a plan and its part', () => {
  test('the plan stays on the description it was made against until it takes the new one over', async () => {
    const description = ownPart();
    const first = expectOk(await storePart(description));
    const id = expectOk(await createPlan('Board', description.id, 'd28'));
    const second = expectOk(present(await storeCorrections(description.id, [correction()], first.revision)));
    const { plan } = present(await readPlan(id));
    expect(present(await findPlanPart(plan)).fingerprint).toBe(first.fingerprint);
    expect(await plansOfPart(description.id)).toMatchObject([{ id, fingerprint: first.fingerprint }]);
    const edit = {
      kind: 'plan.set' as const,
      field: 'deviceFingerprint' as const,
      from: first.fingerprint,
      to: second.fingerprint,
    };
    expect(await appendEdit(id, { editId: newId(), client: 't', madeAgainst: 0, edit })).toMatchObject({
      status: 'saved',
    });
    const taken = present(await readPlan(id)).plan;
    expect(present(await findPlanPart(taken)).fingerprint).toBe(second.fingerprint);
    expect(await plansOfPart(description.id)).toMatchObject([{ id, fingerprint: second.fingerprint }]);
  });

  test('a plan of an unknown description uses today’s', async () => {
    const plan = { ...frostGuard(), deviceFingerprint: 'feedfacefeedface' };
    expect(present(await findPlanPart(plan)).fingerprint).toBe(corvane().fingerprint);
    expect(await findPlanPart({ ...plan, device: 'nobody-n1' })).toBeUndefined();
  });

  test('changes its part in one edit, which the list follows', async () => {
    const plan = frostGuard();
    const id = expectOk(await storePlan(plan));
    const preview = present(previewChange(plan, corvane(), family('velm-v3'), 'q64', 'signal'));
    expect(
      await appendEdit(id, { editId: newId(), client: 't', madeAgainst: 0, edit: preview.edit }),
    ).toMatchObject({
      status: 'saved',
      seq: 1,
    });
    expect(await query('select device, package from plans where id = $1', [id])).toEqual([
      { device: 'velm-v3-80', package: 'q64' },
    ]);
    expect(present(await readPlan(id)).plan.device).toBe('velm-v3-80');
  });

  test('cannot change to a part or package that is not here', async () => {
    const id = expectOk(await storePlan(frostGuard()));
    const to = (field: 'device' | 'package', from: string, value: string) =>
      appendEdit(id, {
        editId: newId(),
        client: 't',
        madeAgainst: 0,
        edit: { kind: 'plan.set', field, from, to: value },
      });
    expect(await to('device', 'corvane-c40-80', 'nobody-n1')).toMatchObject({
      status: 'refused',
      problems: [{ message: 'there is no part nobody-n1 with package q100 here' }],
    });
    expect(await to('package', 'q100', 'q1')).toMatchObject({ status: 'refused' });
    expect(present(await readPlan(id)).seq).toBe(0);
  });
});

test('a mapping of columns is remembered by the headings', async () => {
  const signature = `pinout:${newId()}`;
  expect(await rememberedMapping(signature)).toBeUndefined();
  await rememberMapping(signature, { headerRow: 1, roles: ['pad', 'pin:q48'] });
  await rememberMapping(signature, { headerRow: 0, roles: ['pad', 'pin:q64'] });
  expect(await rememberedMapping(signature)).toEqual({ headerRow: 0, roles: ['pad', 'pin:q64'] });
});
