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

/** Unit, property and process tests; the browser tests are Playwright's (e2e/). */
export default {
  testEnvironment: 'node',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.ts$': swc(false), '^.+\\.tsx$': swc(true) },
  moduleNameMapper: {
    '^chevrotain$': '<rootDir>/node_modules/chevrotain/lib/chevrotain.mjs',
    '\\.module\\.css$': '<rootDir>/tests/noStyles.ts',
    '^@/(.*)$': '<rootDir>/$1',
  },
  // Generous: a loaded machine is no failure.
  testTimeout: 30_000,
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  testPathIgnorePatterns: ['/node_modules/', '/.next/', '/e2e/'],
  modulePathIgnorePatterns: ['/.next/'],
}
