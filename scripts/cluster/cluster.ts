import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import pg from 'pg';

/**
 * `./mavrek cluster`: several servers behind HAProxy, on a PostgreSQL that Patroni keeps on two nodes, by way of PgBouncer; all on the
 * loopback, from the files in `deploy/`, for trying and for the tests. What dies is started again, as systemd would.
 */
const SERVERS = 3;
const NODES = 2;
const ADDRESS = '127.0.0.1';

const home = process.env.MAVREK_HOME ?? process.cwd();
/** Where all of it is kept; PostgreSQL's own user must be able to reach it. */
const folder = process.env.MAVREK_CLUSTER ?? '';
const pgBin = process.env.PG_BIN ?? '';
const build = process.env.MAVREK_BUILD ?? '';

/** PostgreSQL and PgBouncer refuse to run as root. */
const owner = ((): { uid: number; gid: number } | undefined => {
  if (process.getuid?.() !== 0) return undefined;
  const id = (what: string): number => Number(execFileSync('id', [what, 'postgres'], { encoding: 'utf8' }));
  return { uid: id('-u'), gid: id('-g') };
})();

const freePort = (): Promise<number> =>
  new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', reject);
    server.listen(0, ADDRESS, () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

function ownFolder(path: string): string {
  mkdirSync(path, { recursive: true });
  if (owner) chownSync(path, owner.uid, owner.gid);
  chmodSync(path, 0o700);
  return path;
}

function write(path: string, text: string): string {
  writeFileSync(path, text, { mode: 0o600 });
  if (owner) chownSync(path, owner.uid, owner.gid);
  return path;
}

/** A file of `deploy/` with its places filled in. One that is left open is an error of ours. */
function filled(name: string, values: Record<string, string | number>): string {
  return readFileSync(join(home, 'deploy', name), 'utf8').replaceAll(/\$\{(\w+)\}/g, (whole, key: string) => {
    if (values[key] === undefined) throw new Error(`deploy/${name} has ${whole}, which is not known`);
    return String(values[key]);
  });
}

let stopping = false;
const running = new Map<string, ChildProcess>();

/** Keeps a program running: it is started again a moment after it ended. */
function keep(
  name: string,
  command: string,
  args: string[],
  env: Record<string, string> = {},
  asOwner = true,
): void {
  const log = openSync(join(folder, `${name}.log`), 'a');
  const child = spawn(command, args, {
    cwd: folder,
    env: { ...process.env, ...env },
    stdio: ['ignore', log, log],
    detached: true,
    ...(asOwner && owner ? owner : {}),
  });
  running.set(name, child);
  writeFileSync(join(folder, `${name}.pid`), String(child.pid));
  child.once('error', (error) => say(`${name} cannot be started: ${error.message}`));
  child.once('exit', () => {
    const again = (): void => {
      if (stopping) return;
      // A machine that is lost stays away: tests say so by a file.
      if (existsSync(join(folder, `${name}.hold`))) setTimeout(again, 500);
      else keep(name, command, args, env, asOwner);
    };
    setTimeout(again, 500);
  });
}

const say = (text: string): void => {
  process.stderr.write(`mavrek: ${text}\n`);
};

async function until(what: string, seconds: number, test: () => Promise<boolean>): Promise<void> {
  const end = Date.now() + seconds * 1000;
  while (Date.now() < end) {
    if (await test().catch(() => false)) return;
    await new Promise((done) => setTimeout(done, 250));
  }
  throw new Error(`${what} did not come up in ${seconds} seconds; see ${folder}/*.log`);
}

const answers = async (url: string): Promise<boolean> => (await fetch(url)).ok;

async function main(): Promise<void> {
  ownFolder(folder);
  const front = Number(process.env.PORT ?? 4600);
  const [etcd = 0, peer = 0, primary = 0, pooler = 0] = await Promise.all([
    freePort(),
    freePort(),
    freePort(),
    freePort(),
  ]);
  const passwordFile = join(folder, 'password');
  if (!existsSync(passwordFile)) write(passwordFile, randomBytes(18).toString('hex'));
  const password = readFileSync(passwordFile, 'utf8').trim();

  // What agrees on who is the primary: one here, three or five on machines of one's own.
  rmSync(join(folder, 'etcd'), { recursive: true, force: true });
  keep('etcd', 'etcd', [
    '--name=one',
    `--data-dir=${ownFolder(join(folder, 'etcd'))}`,
    `--listen-client-urls=http://${ADDRESS}:${etcd}`,
    `--advertise-client-urls=http://${ADDRESS}:${etcd}`,
    `--listen-peer-urls=http://${ADDRESS}:${peer}`,
    `--initial-advertise-peer-urls=http://${ADDRESS}:${peer}`,
    `--initial-cluster=one=http://${ADDRESS}:${peer}`,
    '--enable-v2',
    '--logger=zap',
    '--log-level=error',
  ]);
  await until('etcd', 20, () => answers(`http://${ADDRESS}:${etcd}/health`));

  const archive = ownFolder(join(folder, 'archive'));
  const nodes: { name: string; rest: number; port: number }[] = [];
  for (let n = 1; n <= NODES; n++) {
    const name = `pg${n}`;
    const own = ownFolder(join(folder, name));
    const [rest, port] = await Promise.all([freePort(), freePort()]);
    nodes.push({ name, rest, port });
    const config = write(
      join(own, 'patroni.yml'),
      filled('patroni.yml', {
        NODE: name,
        ADDRESS,
        NETWORK: `${ADDRESS}/32`,
        REST_PORT: rest,
        PG_PORT: port,
        ETCD_HOSTS: `${ADDRESS}:${etcd}`,
        HOME: own,
        PG_BIN: pgBin,
        PASSWORD: password,
        ARCHIVE_COMMAND: JSON.stringify(
          `test -f ${archive}/%f || cp %p ${archive}/%f.part && mv ${archive}/%f.part ${archive}/%f || true`,
        ),
      }),
    );
    keep(name, 'patroni', [config], { PATRONI_LOG_LEVEL: 'INFO' });
    if (n === 1) await until('PostgreSQL', 60, () => answers(`http://${ADDRESS}:${rest}/primary`));
  }

  const ports = await Promise.all(Array.from({ length: SERVERS }, freePort));
  const haproxy = write(
    join(folder, 'haproxy.cfg'),
    filled('haproxy.cfg', {
      ADDRESS,
      FRONT_PORT: front,
      PRIMARY_PORT: primary,
      SERVERS: ports.map((port, n) => `  server s${n + 1} ${ADDRESS}:${port} check`).join('\n'),
      NODES: nodes
        .map(({ name, port, rest }) => `  server ${name} ${ADDRESS}:${port} check port ${rest}`)
        .join('\n'),
    }),
  );
  keep('haproxy', '/usr/sbin/haproxy', ['-db', '-f', haproxy]);
  const own = ownFolder(join(folder, 'pgbouncer'));
  write(join(own, 'userlist.txt'), `"mavrek" "${password}"\n`);
  const bouncer = write(
    join(own, 'pgbouncer.ini'),
    filled('pgbouncer.ini', {
      ADDRESS,
      PRIMARY_HOST: ADDRESS,
      PRIMARY_PORT: primary,
      POOLER_PORT: pooler,
      HOME: own,
    }),
  );
  keep('pgbouncer', '/usr/sbin/pgbouncer', [bouncer]);

  const direct = (database: string): string =>
    `postgres://mavrek:${password}@${ADDRESS}:${primary}/${database}`;
  const pooled = `postgres://mavrek:${password}@${ADDRESS}:${pooler}/mavrek`;
  await until('the primary', 30, async () => {
    const client = new pg.Client({ connectionString: direct('postgres') });
    await client.connect();
    const { rows } = await client.query("select 1 from pg_database where datname = 'mavrek'");
    if (rows.length === 0) await client.query('create database mavrek');
    await client.end();
    return true;
  });
  await until('the replica', 60, () => answers(`http://${ADDRESS}:${nodes[1]?.rest}/replica`));
  execFileSync(
    process.execPath,
    [
      join(home, 'node_modules/tsx/dist/cli.mjs'),
      '--tsconfig',
      join(home, 'tsconfig.json'),
      join(home, 'src/server/prepare.ts'),
    ],
    { env: { ...process.env, DATABASE_URL: direct('mavrek') }, stdio: ['ignore', 'ignore', 'inherit'] },
  );
  for (const [n, port] of ports.entries())
    keep(
      `s${n + 1}`,
      process.execPath,
      [join(home, build, 'server.cjs')],
      {
        HOST: ADDRESS,
        PORT: String(port),
        MAVREK_HOME: home,
        MAVREK_BUILD: build,
        MAVREK_INSTANCE: `s${n + 1}`,
        MAVREK_HOSTS: [
          `${ADDRESS}:${front}`,
          `localhost:${front}`,
          'haproxy',
          process.env.MAVREK_HOSTS ?? '',
        ].join(' '),
        MAVREK_PROXY: 'on',
        MAVREK_STANDBY: 'on',
        DATABASE_URL: pooled,
        DATABASE_POOLER: 'transaction',
        DATABASE_DIRECT_URL: direct('mavrek'),
      },
      false,
    );
  await until('the servers', 60, () => answers(`http://${ADDRESS}:${front}/api/health`));
  await until('all servers', 60, async () =>
    (await Promise.all(ports.map((port) => answers(`http://${ADDRESS}:${port}/api/health`)))).every(Boolean),
  );
  write(
    join(folder, 'cluster.json'),
    JSON.stringify(
      { url: `http://${ADDRESS}:${front}`, servers: ports, nodes, etcd, primary: direct('mavrek'), pooled },
      null,
      2,
    ),
  );
  say(
    `open http://${ADDRESS}:${front}: ${SERVERS} servers, ${NODES} nodes of PostgreSQL; logs in ${folder} (Ctrl-C stops)`,
  );
}

/** Ends everything, what depends on others first. */
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  rmSync(join(folder, 'cluster.json'), { force: true });
  for (const names of [/^s\d/, /^pgbouncer$/, /^haproxy$/, /^pg\d/, /^etcd$/]) {
    const here = [...running].filter(([name]) => names.test(name)).map(([, child]) => child);
    await Promise.all(
      here.map(
        (child) =>
          new Promise<void>((done) => {
            if (child.exitCode !== null || child.signalCode !== null) return done();
            const late = setTimeout(() => child.kill('SIGKILL'), 15_000);
            child.once('exit', () => {
              clearTimeout(late);
              done();
            });
            child.kill('SIGTERM');
          }),
      ),
    );
  }
  // Patroni takes its PostgreSQL along; one whose Patroni was killed is still there.
  for (let n = 1; n <= NODES; n++)
    try {
      const pid = Number(
        readFileSync(join(folder, `pg${n}`, 'data', 'postmaster.pid'), 'utf8').split('\n')[0],
      );
      if (pid > 1) process.kill(pid, 'SIGQUIT');
    } catch {
      // It has ended.
    }
}

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => void stop().then(() => process.exit(signal === 'SIGINT' ? 130 : 0)));
main().catch(async (error: Error) => {
  say(error.message);
  await stop();
  process.exit(1);
});
