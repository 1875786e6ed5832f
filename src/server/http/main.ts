import { createServer } from 'node:http';
import next from 'next';
import { keepLog } from '../fold';
import { guarded } from '../people/guard';
import { authSettings, WrongSettings } from '../people/settings';
import { answersEdit } from './edits';
import { answersEvents } from './events';
import { admit } from './gate';
import { hostsOf } from './hosts';
import { answersMetrics, measure } from './metrics';

/**
 * The server's process. HOST and PORT say where it listens, MAVREK_HOSTS by which other names it may be called, MAVREK_BUILD
 * which build it serves, MAVREK_INSTANCE how its launcher knows it again; of accounts see `people/settings.ts`.
 */
const host = process.env.HOST ?? '127.0.0.1';
const port = Number(process.env.PORT ?? 4600);
const dir = process.env.MAVREK_HOME ?? process.cwd();
/** How long what is under way may take when the server is stopped. */
const STOP_MS = 1500;
/**
 * How long an idle connection is kept. Longer than a proxy keeps its connections to us (60 s by default): whoever closes first can do so
 * while the next request is on its way, which then fails.
 */
const KEEP_ALIVE_MS = 75_000;

async function serve(): Promise<void> {
  const app = next({ dev: false, dir, hostname: host, port });
  const handle = app.getRequestHandler();
  // What people sign in by is checked before anybody can; the address that they use is a name of this server.
  const { url } = authSettings();
  const names = [process.env.MAVREK_HOSTS ?? '', url === undefined ? '' : new URL(url).host].join(' ');
  const hosts = hostsOf(host, port, names);
  let ready: Promise<void> | undefined;
  const server = createServer((request, response) => {
    if (!admit(request, response, hosts)) return;
    measure(request, response);
    guarded(request, response, async () => {
      if (answersMetrics(request, response) || answersEdit(request, response)) return;
      if (answersEvents(request, response)) return;
      await ready;
      if (!response.headersSent) await handle(request, response);
    }).catch((error: Error) => {
      // The gate has answered, and cut off what was still to come.
      if (response.headersSent && !request.complete) return;
      process.stderr.write(`${JSON.stringify({ level: 50, msg: 'request failed', err: error.message })}\n`);
      response.destroy();
    });
  });
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  // The port is taken before the application is made ready: two servers on one port do not both think that it is theirs.
  await new Promise<void>((done, failed) => {
    server.once('error', failed);
    server.listen({ host, port, exclusive: true }, done);
  });
  const stop = (): void => {
    // What is being answered is; streams of events do not end by themselves, and come again at another server.
    server.close(() => process.exit(0));
    server.closeIdleConnections();
    setTimeout(() => server.closeAllConnections(), STOP_MS).unref();
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
  keepLog();
  ready = app.prepare();
  await ready;
}

/** What a launcher is told by the status: another program has the port, or the settings are wrong, and would be again. */
const PORT_TAKEN = 98;
const WRONG_SETTINGS = 78;

serve().catch((error: Error & { code?: string }) => {
  const taken = error.code === 'EADDRINUSE';
  process.stderr.write(`mavrek: ${taken ? `port ${port} on ${host} is taken` : error.message}\n`);
  process.exit(taken ? PORT_TAKEN : error instanceof WrongSettings ? WRONG_SETTINGS : 1);
});
