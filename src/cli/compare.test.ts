import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { commandIn } from './testing/command';

const CLEAN = resolve('examples/frost-guard.plan.json');
const { mavrek, file, folder: own } = commandIn('mavrek-compare-');
type Net = { name: string; placement: { pad: string } | null; note?: string };
const changed = (name: string, change: (nets: Map<string, Net>) => void): string => {
  const plan = JSON.parse(readFileSync(CLEAN, 'utf8'));
  change(new Map((plan.nets as Net[]).map((net) => [net.name, net])));
  return file(name, JSON.stringify(plan));
};
const net = (nets: Map<string, Net>, name: string): Net => nets.get(name) as Net;

describe('mavrek compare', () => {
  test('exit 0 when nothing differs, 1 when something does, 2 for what cannot be used', async () => {
    expect(await mavrek('compare', CLEAN, CLEAN)).toMatchObject({ status: 0, stderr: '' });
    const moved = changed('moved.plan.json', (nets) => {
      net(nets, 'FAN_1').placement = { pad: 'B11' };
      Object.assign(net(nets, 'FAN_1').placement ?? {}, { locked: false });
    });
    const text = await mavrek('compare', CLEAN, moved);
    expect(text).toMatchObject({ status: 1, stderr: '' });
    expect(text.stdout).toContain('FAN_1 (Fans): B7, pin 27 → B11, pin 31');
    const json = JSON.parse((await mavrek('compare', CLEAN, moved, '--format', 'json')).stdout);
    expect(json).toMatchObject({
      format: 'mavrek-comparison/1',
      same: false,
      nets: { moved: [{ name: 'FAN_1' }] },
    });
    expect((await mavrek('compare', CLEAN, moved, '--format', 'markdown')).stdout).toMatch(
      /^# Frost guard C → Frost guard C/,
    );
    expect(await mavrek('compare', CLEAN, '/no/such/file')).toMatchObject({
      status: 2,
      stdout: '',
      stderr: expect.stringContaining('there is no such file'),
    });
    expect(await mavrek('compare', CLEAN, file('x.plan.json', '{'))).toMatchObject({ status: 2, stdout: '' });
  });
});

describe('mavrek variants', () => {
  const south = () =>
    changed('south.plan.json', (nets) => {
      Object.assign(net(nets, 'FAN_1'), { settings: { active: 'high' } });
    });
  test('exit 0 when they agree, 1 when they do not, with which lacks what', async () => {
    expect(await mavrek('variants', CLEAN, CLEAN)).toMatchObject({
      status: 0,
      stdout: expect.stringContaining('all variants agree'),
    });
    const differing = await mavrek('variants', CLEAN, south());
    expect(differing.status).toBe(1);
    expect(differing.stdout).toContain('FAN_1 (Fans), active level: low (1), high (2)');
    expect((await mavrek('variants', CLEAN, south(), '--circuit', 'Valves')).status).toBe(0);
    const json = JSON.parse((await mavrek('variants', CLEAN, south(), '--format', 'json')).stdout);
    expect(json).toMatchObject({ onePrefix: true, lacks: [] });
  });
  test.each([
    ['one plan', [CLEAN], /variants are at least two/],
    ['an unknown circuit', [CLEAN, CLEAN, '--circuit', 'nonsense'], /no plan has a circuit "nonsense"/],
    ['a file that is not there', [CLEAN, 'nothing'], /there is no such file/],
  ])('exit 2 on %s', async (_, args, message) => {
    const { status, stderr, stdout } = await mavrek('variants', ...args);
    expect({ status, stdout }).toEqual({ status: 2, stdout: '' });
    expect(stderr).toMatch(message);
  });
});

describe('in a git repository', () => {
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-git-'));
  const git = (...args: string[]): string =>
    execFileSync('git', ['-c', 'user.name=mk', '-c', 'user.email=mk@example.org', ...args], {
      cwd: folder,
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'pipe'],
    });
  const plan = join(folder, 'guard.plan.json');
  const commit = (text: string, message: string): void => {
    writeFileSync(plan, text);
    git('add', '.');
    git('commit', '-qm', message);
  };
  const clean = readFileSync(CLEAN, 'utf8');
  const launcher = resolve('mavrek');
  beforeAll(() => {
    git('init', '-q', '-b', 'main');
    writeFileSync(join(folder, '.gitattributes'), '*.plan.json merge=mavrek\n');
    git('config', 'merge.mavrek.driver', `'${launcher}' merge %O %A %B`);
    commit(clean, 'A');
  });

  test('revisions of a file are compared as git names them', () => {
    commit(clean.replace('"name":"LAMP_RED"', '"name":"LAMP_AMBER"'), 'B');
    const compare = (...args: string[]) => {
      try {
        return execFileSync(launcher, ['compare', ...args], {
          cwd: folder,
          encoding: 'utf8',
          stdio: ['ignore', 'pipe', 'pipe'],
        });
      } catch (error) {
        return `${(error as { status: number }).status} ${(error as { stdout: string }).stdout}${(error as { stderr: string }).stderr}`;
      }
    };
    expect(compare('HEAD~1:guard.plan.json', 'guard.plan.json')).toMatch(
      /^1 [\s\S]*name LAMP_RED → LAMP_AMBER/,
    );
    expect(compare('HEAD:guard.plan.json', 'guard.plan.json')).toContain('nothing differs');
    expect(compare('nowhere:guard.plan.json', 'guard.plan.json')).toMatch(
      /^2 .*nowhere:guard\.plan\.json: git does not give it/,
    );
    expect(compare('--output=x:guard.plan.json', 'guard.plan.json')).toMatch(/^2 /);
    git('checkout', '-q', '-B', 'main', 'HEAD~1');
  });

  test('as a merge driver: two branches that change one net in different ways come together', () => {
    git('checkout', '-q', '-b', 'ours');
    commit(clean.replace('"name":"LAMP_RED"', '"name":"LAMP_AMBER"'), 'a name');
    git('checkout', '-q', '-b', 'theirs', 'main');
    commit(clean.replace(/("name":"LAMP_RED".*?"pad":")A5/, '$1A4'), 'a pad');
    git('checkout', '-q', 'ours');
    // The same line of the file: without the driver this is a conflict.
    git('merge', '-q', '-m', 'both', 'theirs');
    const merged = readFileSync(plan, 'utf8');
    expect(merged).toMatch(/"name":"LAMP_AMBER".*"pad":"A4"/);
  });

  test('a conflict stops the merge and is named', () => {
    git('checkout', '-q', '-b', 'one', 'main');
    commit(clean.replace(/("name":"LAMP_RED".*?"pad":")A5/, '$1A4'), 'A4');
    git('checkout', '-q', '-b', 'two', 'main');
    commit(clean.replace(/("name":"LAMP_RED".*?"pad":")A5/, '$1B11'), 'B11');
    let said = '';
    try {
      git('merge', '-q', '-m', 'both', 'one');
    } catch (error) {
      const { stdout, stderr } = error as { stdout: string; stderr: string };
      said = `${stdout}${stderr}`;
    }
    expect(said).toMatch(/both sides changed placement of net LAMP_RED: ours to .*B11.*, theirs to .*A4/);
    expect(git('status', '--porcelain')).toContain('UU guard.plan.json');
    // What is left can be read: our side.
    expect(readFileSync(plan, 'utf8')).toMatch(/"name":"LAMP_RED".*"pad":"B11"/);
    git('merge', '--abort');
  });

  test('what cannot be read is left as it was', async () => {
    const [base, ours, theirs] = ['{', clean, clean].map((text, at) => file(`m${at}.plan.json`, text)) as [
      string,
      string,
      string,
    ];
    expect(await mavrek('merge', base, ours, theirs)).toMatchObject({ status: 2, stdout: '' });
    expect(readFileSync(join(own, ours), 'utf8')).toBe(clean);
    // Both new: an empty base is none.
    expect(await mavrek('merge', file('none', ''), ours, theirs)).toMatchObject({ status: 0, stderr: '' });
    expect(readFileSync(join(own, ours), 'utf8')).toBe(clean);
  });
});
