// Bundles the server's entry and its worker thread: node scripts/build-server.mjs FOLDER
import { mkdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { buildSync } from 'esbuild';

const home = fileURLToPath(new URL('..', import.meta.url));
export function buildServer(folder) {
  mkdirSync(folder, { recursive: true });
  buildSync({
    absWorkingDir: home,
    entryPoints: { worker: 'src/server/work/worker.ts', server: 'src/server/http/main.ts' },
    outdir: folder,
    outExtension: { '.js': '.cjs' },
    bundle: true,
    platform: 'node',
    mainFields: ['module', 'main'],
    target: 'node20',
    external: ['next', 'pg', 'pino', '@node-rs/argon2', 'rate-limiter-flexible'],
    // Before anything is required: a served build is never run as a development one.
    banner: { js: "process.env.NODE_ENV = 'production';" },
    logLevel: 'warning',
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) buildServer(process.argv[2]);
