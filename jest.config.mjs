// `./mavrek test --all` sets it: tests of many minutes (`*.long.test.ts`) run, and random tests do more.
const all = process.env.MAVREK_ALL === '1';

/** @type {import('jest').Config} */
export default {
  testEnvironment: 'node',
  // The worker threads of the server run a bundle of their own.
  globalSetup: '<rootDir>/scripts/build-worker.mjs',
  setupFiles: ['<rootDir>/src/server/testing/everything-is-local.ts'],
  // Tests that run compilers and the launcher share two cores with others.
  testTimeout: 60_000,
  roots: ['<rootDir>/src', '<rootDir>/scripts'],
  transform: {
    '^.+\\.[jt]sx?$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
        },
      },
    ],
  },
  // Some packages come as ES modules only; they are transformed like our own code.
  transformIgnorePatterns: ['/node_modules/(?!(@noble/hashes|csv-parse)/)'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  testPathIgnorePatterns: ['/node_modules/', ...(all ? [] : ['\\.long\\.test\\.ts$'])],
  // No test rests on another one before it: with `--all` their order in a file is by chance. `--seed` repeats one; it is printed.
  randomize: all,
  modulePathIgnorePatterns: ['<rootDir>/.next', '<rootDir>/.mavrek'],
};
