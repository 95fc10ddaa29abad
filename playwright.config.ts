import { defineConfig } from '@playwright/test'
import { CHROMIUM } from './e2e/chromium'

/** Browser tests of the real interface against the real broker, on the system's Chromium. */
export default defineConfig({
  testDir: 'e2e',
  // Emptied at each start, so it lies apart from what other steps leave.
  outputDir: 'test-results/browser',
  // Wide, since a machine that does other work as well may stand still for seconds.
  timeout: 240_000,
  expect: { timeout: 40_000 },
  // One for each of two cores; each has a demo of its own.
  workers: 2,
  // Tests of a file may run side by side, so that no worker is left with a long file at the end.
  fullyParallel: true,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    // What never comes to be there is said before the test's own time is over.
    actionTimeout: 90_000,
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    screenshot: 'only-on-failure',
    launchOptions: CHROMIUM,
  },
})
