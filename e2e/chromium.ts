import { existsSync } from 'node:fs'

/** The system's Chromium, told to stay off the network. */
export const CHROMIUM = {
  executablePath:
    process.env.CHROMIUM ??
    ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find((path) => existsSync(path)),
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    // Its own tabs and buttons move no more than the pages do.
    '--force-prefers-reduced-motion',
  ],
}
