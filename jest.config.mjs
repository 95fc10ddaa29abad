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
  testEnvironment: './tests/nodeEnvironment.mjs',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.ts$': swc(false), '^.+\\.tsx$': swc(true) },
  moduleNameMapper: {
    '^chevrotain$': '<rootDir>/node_modules/chevrotain/lib/chevrotain.mjs',
    '\\.module\\.css$': '<rootDir>/tests/noStyles.ts',
    '^@/(.*)$': '<rootDir>/$1',
  },
  setupFilesAfterEnv: ['./tests/properties.ts'],
  // Tests wait for what they mean; this only keeps one that waits in vain from staying for ever.
  testTimeout: 300_000,
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  testPathIgnorePatterns: ['/node_modules/', '/.next/', '/e2e/'],
  modulePathIgnorePatterns: ['/.next/'],
}
