import { cpSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { REGISTER_FORMS } from '@/core/description/part-forms';
import { readFile } from '@/core/import/files/read-file';
import { commandIn } from './testing/command';

const DEVICES = resolve('devices');
const { folder, mavrek, file } = commandIn('mavrek-device-');
const tables = (part: string): string[] => [
  '--pinout',
  join(DEVICES, part, 'pinout.csv'),
  '--functions',
  join(DEVICES, part, 'functions.csv'),
];
const recipe = (part: string): string[] => ['--recipe', join(DEVICES, part, 'recipe.part')];

// A small part, a middling one and the largest; that each part comes through whole is tested without processes.
describe.each(['pellin-p8', 'corvane-c40', 'sarn-s9'])('%s', (part) => {
  test('imports, accounts for every row, checks, and goes out as the same tables', async () => {
    const out = `${part}.json`;
    const imported = await mavrek(
      'device',
      'import',
      ...tables(part),
      ...recipe(part),
      '--out',
      out,
      '--format',
      'json',
    );
    expect(imported).toMatchObject({ status: 0, stderr: '' });
    const report = JSON.parse(imported.stdout);
    for (const { rows, fates } of Object.values(report.rows) as {
      rows: number;
      fates: Record<string, number>;
    }[])
      expect(Object.values(fates).reduce((sum, one) => sum + one, 0)).toBe(rows);
    const checked = JSON.parse((await mavrek('device', 'check', out, '--format', 'json')).stdout);
    expect(checked.part).toEqual(report.part);
    expect(checked.settings).toBeGreaterThan(200);

    expect((await mavrek('device', 'export', out, '--as', 'tables', '--out', `${part}-out`)).status).toBe(0);
    const again = JSON.parse((await mavrek('device', 'check', `${part}-out`, '--format', 'json')).stdout);
    expect(again.part.fingerprint).toBe(report.part.fingerprint);
  });
});

describe('mavrek device', () => {
  test('check reads a folder as shipped', async () => {
    const { status, stdout } = await mavrek('device', 'check', join(DEVICES, 'pellin-p8'));
    expect(status).toBe(0);
    expect(stdout).toMatch(
      /Pellin P8-22 \(pellin-p8-22\), content [0-9a-f]{16}\n {2}d28: dual row 28, 28 pins/,
    );
    expect(stdout).toMatch(/27 registers; 237 settings of pads, each with bits of its own/);
  });

  test('import without a recipe infers the rest; nets can be placed, code cannot be made', async () => {
    const made = await mavrek(
      'device',
      'import',
      ...tables('pellin-p8'),
      '--name',
      'My Part',
      '--out',
      'mine.json',
    );
    expect(made.status).toBe(0);
    expect(made.stdout).toMatch(/no recipe yet/);
    expect(JSON.parse(readFileSync(join(folder, 'mine.json'), 'utf8'))).toMatchObject({
      format: 'mavrek-device/3',
      id: 'my-part',
    });
    expect(await mavrek('device', 'export', 'mine.json', '--as', 'svd', '--out', 'x')).toMatchObject({
      status: 2,
      stderr: 'my-part: has no registers: attach a recipe first\n',
    });
  });

  test('import takes what columns are from a map', async () => {
    const text = readFileSync(join(DEVICES, 'pellin-p8/pinout.csv'), 'utf8');
    const odd = file('odd.csv', text.replace('pad,kind,', 'Anschluss,Art,').replace(',d28,', ',gross,'));
    const map = file('map.json', '{"pinout":{"Anschluss":"pad","Art":"kind","gross":"pin:d28"}}');
    const functions = join(DEVICES, 'pellin-p8/functions.csv');
    const args = ['device', 'import', '--pinout', odd, '--functions', functions, ...recipe('pellin-p8')];
    expect((await mavrek(...args, '--out', 'odd.json')).status).toBe(2);
    expect(await mavrek(...args, '--map', map, '--out', 'odd.json')).toMatchObject({ status: 0, stderr: '' });
  });

  test('import names the file as the source, not where it lay', async () => {
    expect(
      (await mavrek('device', 'import', ...tables('pellin-p8'), ...recipe('pellin-p8'), '--out', 'src.json'))
        .status,
    ).toBe(0);
    const text = readFileSync(join(folder, 'src.json'), 'utf8');
    expect(text).toContain('"document":"pinout.csv"');
    expect(text).not.toContain(DEVICES);
  });

  test('import takes a pinout or a boundary scan alone, and a map without a recipe', async () => {
    const bsdl = file(
      'p.bsd',
      'entity P is\nport (A0, A1 : inout bit; VDD, VSS : linkage bit);\nconstant D4 : PIN_MAP_STRING := "A0 : 1, A1 : 2, VDD : 3, VSS : 4";\nend P;',
    );
    const alone = await mavrek(
      'device',
      'import',
      '--pinout',
      bsdl,
      '--name',
      'Scan',
      '--out',
      'scan.json',
      '--format',
      'json',
    );
    expect(alone).toMatchObject({ status: 0, stderr: '' });
    expect(JSON.parse(alone.stdout)).toMatchObject({ pads: 4, ioPads: 2, functions: 0 });
    const odd = file('odd2.csv', 'Anschluss,Art,gross\nA0,io,1\nVDD,supply,2\n');
    const args = ['device', 'import', '--pinout', odd, '--name', 'Odd', '--out', 'odd2.json'];
    expect((await mavrek(...args)).status).toBe(2);
    const map = file('map2.json', '{"pinout":{"Anschluss":"pad","Art":"kind","gross":"pin:d2"}}');
    expect((await mavrek(...args, '--map', map)).status).toBe(0);
    const slip = file('slip.json', '{"pinout":{"Anschlus":"pad"}}');
    expect(await mavrek(...args, '--map', slip)).toMatchObject({
      status: 2,
      stderr: 'slip.json, pinout: the table has no column "Anschlus"\n',
    });
  });

  test('a plan is checked with the folder of its part, and another description than its own is told', async () => {
    const plan = resolve('examples/frost-guard.plan.json');
    expect((await mavrek('check', plan, '--devices', join(DEVICES, 'corvane-c40'))).status).toBe(0);
    expect(await mavrek('check', plan, '--devices', join(DEVICES, 'pellin-p8'))).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/this is the part "pellin-p8-22", and the plan is for "corvane-c40-80"/),
    });
    const stale = file(
      'stale.plan.json',
      readFileSync(plan, 'utf8').replace(
        /"deviceFingerprint": "[0-9a-f]+"/,
        '"deviceFingerprint": "feedfacefeedface"',
      ),
    );
    expect((await mavrek('check', stale)).stdout).toMatch(
      /part-changed.*was made against description feedfacefeedface/s,
    );
  });

  test('import lays corrections over, and says which match no longer', async () => {
    const one = (id: string, from: string) => ({
      id,
      what: ['function', 'K0', 'SPI1.SCK'],
      from,
      to: '3',
      why: 'erratum',
      who: '',
      when: '2026-11-25',
    });
    const args = ['device', 'import', ...tables('pellin-p8'), ...recipe('pellin-p8'), '--out', 'c.json'];
    const good = await mavrek(...args, '--corrections', file('good.json', JSON.stringify([one('a', '1')])));
    expect(good).toMatchObject({ status: 0, stdout: expect.stringContaining('1 corrections') });
    const stale = await mavrek(...args, '--corrections', file('stale.json', JSON.stringify([one('b', '2')])));
    expect(stale.status).toBe(1);
    expect(stale.stdout).toMatch(
      /correction of function K0 SPI1\.SCK not applied: the description says "1" now/,
    );
    expect((await mavrek('device', 'check', 'c.json')).status).toBe(1);
  });

  test('export as SVD and JSON; what differs is not replaced without being told', async () => {
    const part = join(DEVICES, 'pellin-p8');
    expect((await mavrek('device', 'export', part, '--as', 'svd', '--out', 'e')).stdout).toBe(
      'e/pellin-p8-22.svd\n',
    );
    expect(readFileSync(join(folder, 'e/pellin-p8-22.svd'), 'utf8')).toContain('<name>pellin-p8-22</name>');
    expect((await mavrek('device', 'export', part, '--as', 'svd', '--out', 'e')).status).toBe(0);
    file('e/pellin-p8-22.svd', 'mine');
    expect((await mavrek('device', 'export', part, '--as', 'svd', '--out', 'e')).status).toBe(1);
    expect(readFileSync(join(folder, 'e/pellin-p8-22.svd'), 'utf8')).toBe('mine');
  });

  test('registers go out in each open standard, and are read as one by the import', async () => {
    const part = join(DEVICES, 'ketter-k2');
    for (const { id, ending } of REGISTER_FORMS) {
      const { stdout, status } = await mavrek('device', 'export', part, '--as', id, '--out', 'r');
      expect([stdout, status]).toEqual([`r/ketter-k2-51${ending}\n`, 0]);
      const read = readFile(`x${ending}`, readFileSync(join(folder, `r/ketter-k2-51${ending}`)));
      expect(read).toMatchObject({ ok: true, value: { kind: 'registers' } });
    }
  });

  test.each([
    ['no such folder', ['device', 'check', 'nowhere'], /^nowhere: there is no such file\n$/],
    [
      'no such table',
      ['device', 'import', '--pinout', 'no.csv', '--functions', 'f', '--out', 'x'],
      /^no\.csv: there is no such file/,
    ],
    [
      'no name and no recipe',
      ['device', 'import', ...tables('pellin-p8'), '--out', 'x.json'],
      /^--name: without --recipe the part needs a name/,
    ],
    [
      'a spreadsheet that is none',
      ['device', 'import', '--pinout', 'bad.xlsx', '--functions', 'bad.xlsx', '--out', 'x.json'],
      /^bad\.xlsx: a text, though its name ends in \.xlsx/,
    ],
    ['a broken description', ['device', 'check', 'broken.json'], /^broken\.json:1:\d+: /],
    [
      'a plan',
      ['device', 'check', resolve('examples/frost-guard.plan.json')],
      /frost-guard\.plan\.json:\d+:\d+: /,
    ],
    [
      'an unknown kind',
      ['device', 'export', '.', '--as', 'pdf', '--out', 'x'],
      /Allowed choices are text, json, tables, svd, systemrdl, ipxact, corrections/,
    ],
  ])('exit 2 on %s', async (_name, args, message) => {
    file('bad.xlsx', 'no zip');
    file('broken.json', '{"format": "mavrek-device/3"');
    const { status, stderr, stdout } = await mavrek(...args);
    expect({ status, stdout }).toEqual({ status: 2, stdout: '' });
    expect(stderr).toMatch(message);
    expect(stderr).not.toMatch(/\n {4}at /);
    expect(existsSync(join(folder, 'x.json'))).toBe(false);
  });

  test('exit 2 with every problem at its row and column, and no file written', async () => {
    const text = readFileSync(join(DEVICES, 'pellin-p8/functions.csv'), 'utf8');
    const bad = file('bad.csv', text.replace('SPI1.SCK', 'SPI1.SKC').replace('K1,', 'K99,'));
    const pinout = join(DEVICES, 'pellin-p8/pinout.csv');
    const { status, stderr } = await mavrek(
      'device',
      'import',
      '--pinout',
      pinout,
      '--functions',
      bad,
      ...recipe('pellin-p8'),
      '--out',
      'n.json',
    );
    expect(status).toBe(2);
    expect(stderr).toMatch(/bad\.csv, row 2, column F1: SPI1 has no line SKC/);
    expect(stderr).toMatch(/bad\.csv, row 3, column pad: the pinout has no pad K99/);
    expect(readdirSync(folder).filter((name) => name.startsWith('n.json'))).toEqual([]);
  });
});

describe('mavrek device clauses', () => {
  test('says word by word what reads and writes of a register do', async () => {
    const part = resolve('devices/corvane-c40');
    const one = await mavrek('device', 'clauses', part, 'PA.SEAL');
    expect(one).toMatchObject({ status: 0, stderr: '' });
    expect(one.stdout).toMatch(/^PA\.SEAL\n {2}read: nothing\n {2}write v: PA\.SEAL\.seen := /);
    const all = (await mavrek('device', 'clauses', part)).stdout;
    expect(all).toContain('GATE.ON\n  read: GATE.ON\n  write v: GATE.ON := v\n');
    expect(all.split('\n').filter((line) => /^\S/.test(line)).length).toBeGreaterThan(50);
  });

  test('a register that is not there is refused, with what may be meant', async () => {
    expect(await mavrek('device', 'clauses', resolve('devices/corvane-c40'), 'PA.SEEL')).toMatchObject({
      status: 2,
      stdout: '',
      stderr: expect.stringMatching(/register PA\.SEEL.*the part has none of that name.*PA\.SEAL/),
    });
  });
});

describe("a part's text", () => {
  const part = (name: string, change: (text: string) => string): string => {
    cpSync(join(DEVICES, 'pellin-p8'), join(folder, name), { recursive: true });
    const path = join(folder, name, 'recipe.part');
    writeFileSync(path, change(readFileSync(path, 'utf8')));
    return name;
  };

  test('is refused at its line, with a caret; for programs as JSON and SARIF', async () => {
    const name = part('misspelt', (text) => text.replace('ro, follows pads', 'ro, folows pads'));
    const { status, stderr } = await mavrek('device', 'check', name);
    expect(status).toBe(2);
    const [head, row, caret] = stderr.split('\n');
    expect(head).toMatch(
      /^misspelt\/recipe\.part:17:\d+: "folows" means nothing in the line of a register; did you mean follows\?/,
    );
    expect(row?.slice(caret?.indexOf('^'))).toBe('folows pads');
    const json = await mavrek('device', 'check', name, '--format', 'json');
    expect(JSON.parse(json.stdout)).toMatchObject({ problems: [{ file: 'misspelt/recipe.part', line: 17 }] });
    const sarif = await mavrek('device', 'check', name, '--format', 'sarif');
    expect(JSON.parse(sarif.stdout).runs[0].results[0].locations[0].physicalLocation).toMatchObject({
      artifactLocation: { uri: 'misspelt/recipe.part' },
      region: { startLine: 17 },
    });
    expect([json.status, sarif.status]).toEqual([2, 2]);
  });

  test('is formatted, and left as it is where that is right', async () => {
    const name = part(
      'loose',
      (text) => `# of the data sheet\n${text.replace('field dir     PORT.DR', 'field dir PORT.DR')}`,
    );
    const path = `${name}/recipe.part`;
    expect(await mavrek('device', 'format', path, '--check')).toMatchObject({
      status: 1,
      stdout: `${path}: would change\n`,
    });
    expect(await mavrek('device', 'format', path)).toMatchObject({
      status: 0,
      stdout: `${path}: formatted\n`,
    });
    expect(readFileSync(join(folder, path), 'utf8')).toMatch(
      /^# of the data sheet\npart pellin[\s\S]*field dir {5}PORT\.DR/,
    );
    expect(await mavrek('device', 'format', path, '--check')).toMatchObject({ status: 0 });
  });

  test('goes out as one text, which is a part again; two that do the same are the same', async () => {
    const name = part('whole', (text) => text);
    expect(await mavrek('device', 'export', name, '--as', 'text', '--out', 'texts')).toMatchObject({
      status: 0,
    });
    const same = await mavrek('device', 'compare', name, 'texts/pellin-p8-22.part');
    expect([same.status, same.stdout]).toEqual([
      0,
      expect.stringContaining('In all that was compared, the two do the same.'),
    ]);
    const swapped = part('swapped', (text) => text.replace('(analog: 1, *: 0)', '(analog: 0, *: 1)'));
    const differ = await mavrek('device', 'compare', name, swapped, '--format', 'json');
    expect(differ.status).toBe(1);
    expect(JSON.parse(differ.stdout).behaviour.wrong.length).toBeGreaterThan(0);
  });

  test('stands there once: a folder with the same as JSON beside it is refused', async () => {
    const name = part('twice', (text) => text);
    writeFileSync(join(folder, name, 'recipe.json'), '{}');
    expect(await mavrek('device', 'check', name)).toMatchObject({
      status: 2,
      stderr: 'twice: holds recipe.part and recipe.json, which say the same: remove one of them\n',
    });
  });
});
