import { defineConfig } from '@playwright/test';
import { PEOPLE } from './e2e/people-server';

const server = `node ${process.env.MAVREK_BUILD ?? '.next'}/server.cjs`;
const settings = { NEXT_TELEMETRY_DISABLED: '1', LOG_LEVEL: 'error', HOST: '127.0.0.1' };

/**
 * The built application against a real PostgreSQL (DATABASE_URL), in Debian's Chromium; a server a worker, see `e2e/fixtures.ts`.
 * `./mavrek test` sets all up.
 */
export default defineConfig({
  testDir: 'e2e',
  outputDir: '.mavrek/e2e',
  // Waits are for what comes, and end by themselves; these ends are for a machine that is busy with other things.
  timeout: 240_000,
  expect: { timeout: 40_000 },
  // One more than cores: a page that waits for its server leaves one free.
  workers: 3,
  fullyParallel: true,
  forbidOnly: true,
  ...(process.env.MAVREK_ALL === '1' ? {} : { grepInvert: /@all/ }),
  reporter: [['list'], ['json', { outputFile: '.mavrek/e2e.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    browserName: 'chromium',
    actionTimeout: 40_000,
    // A trace takes a picture of the page at each step, which is a third of the time.
    trace: process.env.MAVREK_TRACE ? 'retain-on-failure' : 'off',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
      ],
    },
  },
  webServer: [
    // One with accounts, on a database of its own; the service that one can sign in at is run by the tests.
    {
      command: server,
      url: `${PEOPLE.url}/api/health`,
      timeout: 600_000,
      env: {
        ...settings,
        LOG_LEVEL: 'fatal',
        PORT: new URL(PEOPLE.url).port,
        DATABASE_URL: PEOPLE.database,
        MAVREK_AUTH: 'on',
        MAVREK_OIDC_ISSUER: PEOPLE.provider,
        MAVREK_OIDC_CLIENT: 'mavrek',
        MAVREK_OIDC_SECRET: 'between the two of us',
        MAVREK_OIDC_NAME: 'Orchard Directory',
      },
    },
  ],
});
