/** @type {import('jest').Config} */
export default {
  testEnvironment: 'node',
  // The worker threads of the server run a bundle of their own.
  globalSetup: '<rootDir>/scripts/build-worker.mjs',
  setupFiles: ['<rootDir>/src/testing/everything-is-local.ts'],
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
  modulePathIgnorePatterns: ['<rootDir>/.next', '<rootDir>/.mavrek'],
};
