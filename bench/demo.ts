import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Browser, chromium } from '@playwright/test'
import { CHROMIUM } from '../e2e/chromium'
import { freePort } from '../tests/process'

export interface RunningDemo {
  url: string
  brokerUrl: string
  browser: Browser
  /** Where the key that the broker made lies. */
  keyFile: string
}

/** Runs something against the demo as the trader starts it, and ends both however that ends. */
export async function withDemo<T>(
  env: Record<string, string>,
  work: (demo: RunningDemo) => Promise<T>,
): Promise<T> {
  const dataDir = mkdtempSync(join(tmpdir(), 'heron-bench-'))
  const [port, brokerPort] = [await freePort(), await freePort()]
  const demo: ChildProcess = spawn(process.execPath, ['scripts/demo.mjs'], {
    env: {
      ...process.env,
      PORT: String(port),
      HERON_BROKER_PORT: String(brokerPort),
      HERON_DATA: dataDir,
      ...env,
    },
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  let browser: Browser | undefined
  try {
    const [url, brokerUrl] = [`http://127.0.0.1:${port}`, `http://127.0.0.1:${brokerPort}`]
    await answering(`${url}/find`)
    await answering(`${brokerUrl}/health`)
    browser = await chromium.launch(CHROMIUM)
    return await work({ url, brokerUrl, browser, keyFile: join(dataDir, 'broker', 'paper-key.json') })
  } finally {
    await browser?.close()
    demo.kill('SIGTERM')
    await new Promise((resolve) => demo.once('exit', resolve))
    rmSync(dataDir, { recursive: true, force: true })
  }
}

async function answering(url: string): Promise<void> {
  for (let k = 0; k < 600; k++) {
    const up = await fetch(url).then(
      (answer) => answer.ok,
      () => false,
    )
    if (up) return
    await new Promise((resolve) => setTimeout(resolve, 200))
  }
  throw new Error(`${url} does not answer`)
}
