const swc = (tsx) => [
  '@swc/jest',
  {
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx },
      transform: { react: { runtime: 'automatic' } },
    },
    module: { type: 'es6' },
  },
]

const IGNORED = {
  testPathIgnorePatterns: ['/node_modules/', '/.next/', '/e2e/'],
  modulePathIgnorePatterns: ['/.next/'],
}
const testsIn = (...folders) => folders.map((folder) => `<rootDir>/${folder}/**/*.test.{ts,tsx}`)

/** Unit, property and process tests; the browser tests are Playwright's (e2e/). */
export default {
  projects: [
    {
      ...IGNORED,
      displayName: 'node',
      testMatch: testsIn('core', 'broker', 'cli', 'client', 'clients', 'runner', 'bench', 'scripts', 'tests'),
      runner: '<rootDir>/tests/plain/runner.mjs',
      setupFiles: ['<rootDir>/tests/plain/setup.mjs'],
    },
    {
      ...IGNORED,
      // What stands in for a browser changes the globals, so each file has globals and modules of its own.
      displayName: 'page',
      testMatch: testsIn('app', 'store', 'ui', 'workers'),
      testEnvironment: '<rootDir>/tests/nodeEnvironment.mjs',
      extensionsToTreatAsEsm: ['.ts', '.tsx'],
      transform: { '^.+\\.ts$': swc(false), '^.+\\.tsx$': swc(true) },
      moduleNameMapper: {
        '^chevrotain$': '<rootDir>/node_modules/chevrotain/lib/chevrotain.mjs',
        '\\.module\\.css$': '<rootDir>/tests/noStyles.ts',
        '^@/(.*)$': '<rootDir>/$1',
      },
      setupFilesAfterEnv: ['<rootDir>/tests/properties.ts'],
    },
  ],
  testSequencer: '<rootDir>/tests/longestFirst.mjs',
  // Tests wait for what they mean; this only keeps one that waits in vain from staying for ever.
  testTimeout: 300_000,
}
