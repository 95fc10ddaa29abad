import { defineConfig } from '@playwright/test'
import { CHROMIUM } from './e2e/chromium'

/** Browser tests of the real interface against the real broker, on the system's Chromium. */
export default defineConfig({
  testDir: 'e2e',
  timeout: 90_000,
  expect: { timeout: 15_000 },
  workers: 1,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    launchOptions: CHROMIUM,
  },
})
