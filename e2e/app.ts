import { type ChildProcess, execFile, spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { test as base, type BrowserContext, chromium, expect, type Page } from '@playwright/test'

export const VIEWPORT = { width: 1280, height: 800 }

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })

/** The demo as the trader starts it, with a data folder of its own. */
export class Demo {
  readonly dataDir = mkdtempSync(join(tmpdir(), 'heron-e2e-'))
  port = 0
  brokerPort = 0
  private child: ChildProcess | undefined
  private said = ''

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  get brokerUrl(): string {
    return `http://127.0.0.1:${this.brokerPort}`
  }

  get keyFile(): string {
    return join(this.dataDir, 'broker', 'paper-key.json')
  }

  async start(): Promise<void> {
    this.port ||= await freePort()
    this.brokerPort ||= await freePort()
    // The channel ends the demo with the test process, however that ends.
    const child = spawn(process.execPath, ['scripts/demo.mjs'], {
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      env: {
        ...process.env,
        PORT: String(this.port),
        HERON_BROKER_PORT: String(this.brokerPort),
        HERON_DATA: this.dataDir,
      },
    })
    this.child = child
    child.channel?.unref()
    for (const stream of [child.stdout, child.stderr])
      stream!.on('data', (part: Buffer) => (this.said += part.toString()))
    for (let tries = 0; tries < 1200; tries++) {
      if (child.exitCode !== null) throw new Error(`The demo ended: ${this.said}`)
      const both = await Promise.all(
        [`${this.url}/find`, `${this.brokerUrl}/health`].map((url) =>
          fetch(url).then(
            (answer) => answer.ok,
            () => false,
          ),
        ),
      )
      if (both.every(Boolean)) return
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    throw new Error(`The demo does not answer: ${this.said}`)
  }

  async stop(): Promise<void> {
    const child = this.child
    if (!child || child.exitCode !== null) return
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill('SIGTERM')
    const timer = setTimeout(() => child.kill('SIGKILL'), 10_000)
    await gone
    clearTimeout(timer)
  }

  /** Kills the broker's process as a crash would; the demo starts it again. */
  killBroker(): void {
    const pid = Number(readFileSync(join(this.dataDir, 'broker', 'broker.lock'), 'utf8'))
    process.kill(pid, 'SIGKILL')
  }

  /** The sample script, as the trader runs it. */
  script(...args: string[]): Promise<string> {
    const about = ['clients/python/crossing.py', '--broker', this.brokerUrl, '--key-file', this.keyFile]
    return new Promise((resolve, reject) =>
      execFile('python3', [...about, ...args], (error, out, err) =>
        error ? reject(new Error(`${error.message}\n${out}\n${err}`)) : resolve(out),
      ),
    )
  }

  async request<T>(method: string, path: string, body?: unknown): Promise<T> {
    const { keyId, secret } = JSON.parse(readFileSync(this.keyFile, 'utf8')) as {
      keyId: string
      secret: string
    }
    const token = await fetch(`${this.brokerUrl}/paper/token`, {
      method: 'POST',
      headers: { Authorization: `Basic ${Buffer.from(`${keyId}:${secret}`).toString('base64')}` },
      body: new URLSearchParams({ grant_type: 'client_credentials' }),
    })
    const { access_token } = (await token.json()) as { access_token: string }
    const answer = await fetch(this.brokerUrl + path, {
      method,
      headers: { Authorization: `Bearer ${access_token}`, 'Content-Type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    })
    return (await answer.json()) as T
  }

  remove(): void {
    rmSync(this.dataDir, { recursive: true, force: true })
  }
}

async function running(provide: (demo: Demo) => Promise<void>): Promise<void> {
  const demo = new Demo()
  try {
    await demo.start()
    await provide(demo)
  } finally {
    await demo.stop()
    demo.remove()
  }
}

/** A browser with a profile, which keeps the compiled code of pages from test to test, so that each starts sooner. */
async function browsing(
  options: Parameters<typeof chromium.launchPersistentContext>[1],
  provide: (context: BrowserContext) => Promise<void>,
): Promise<void> {
  const profile = mkdtempSync(join(tmpdir(), 'heron-profile-'))
  const context = await chromium.launchPersistentContext(profile, options)
  try {
    await provide(context)
  } finally {
    await context.close()
    rmSync(profile, { recursive: true, force: true })
  }
}

/** Takes away all that the application has kept in this browser, bars of the market apart. */
async function forget(): Promise<void> {
  localStorage.clear()
  const name = 'fleet-heron'
  if (!(await indexedDB.databases()).some((one) => one.name === name)) return
  const db = await new Promise<IDBDatabase>((resolve, reject) => {
    const open = indexedDB.open(name)
    open.onsuccess = () => resolve(open.result)
    open.onerror = () => reject(open.error!)
  })
  const stores = [...db.objectStoreNames].filter((store) => store !== 'barChunks')
  const change = db.transaction(stores, 'readwrite')
  for (const store of stores) change.objectStore(store).clear()
  await new Promise((resolve) => (change.oncomplete = resolve))
  db.close()
}

/** Closes the tabs of a test, and takes away what it has kept in the browser. */
export async function clear(context: BrowserContext): Promise<void> {
  const [first, ...tabs] = context.pages()
  const origins = new Set(tabs.map((tab) => new URL(tab.url()).origin).filter((origin) => origin !== 'null'))
  for (const tab of tabs) await tab.close()
  for (const origin of origins) {
    // A demo of the test's own is gone by then, and its port with it.
    const there = await fetch(`${origin}/icon.svg`).catch(() => undefined)
    if (!there) continue
    await first.goto(`${origin}/icon.svg`)
    await first.evaluate(forget)
  }
  await first.goto('about:blank')
}

/**
 * A test with the demo running. Tests of a worker share `demo` and the browser; one that moves the clock, or counts, takes
 * its `own`. Nothing is kept in the browser from one test to the next but the code of pages
 * and bars of the market.
 */
export const test = base.extend<{ own: Demo }, { demo: Demo; shared: BrowserContext }>({
  demo: [({}, provide) => running(provide), { scope: 'worker', timeout: 300_000 }],
  own: [({}, provide) => running(provide), { timeout: 300_000 }],
  shared: [
    ({ launchOptions }, provide) =>
      browsing({ ...launchOptions, viewport: VIEWPORT, reducedMotion: 'reduce' }, provide),
    { scope: 'worker', timeout: 120_000 },
  ],
  context: async ({ shared }, provide) => {
    await provide(shared)
    await clear(shared)
  },
})
export { expect }

/** Writes a rule in the editor in place of what stands there, and scans. */
export async function scan(page: Page, rule: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Rule' }).click()
  await page.keyboard.press('ControlOrMeta+a')
  await page.keyboard.insertText(rule)
  await page.keyboard.press('ControlOrMeta+Enter')
}

/** The line that says how many meet the rule. */
export const summary = (page: Page) => page.getByTestId('summary')

/** Closes own menus and goes to a section by its letter. */
export const section = (page: Page, name: string) =>
  page.getByRole('navigation').getByRole('link', { name, exact: true }).click()

/** Daily bars of some made-up securities in one file, with two bad lines. */
export function barsFile(): string {
  const lines = ['Code,Session,First,Max,Min,Settle,Vol']
  for (const [k, symbol] of ['TARN', 'BECK', 'RILL'].entries()) {
    for (let i = 0; i < 80; i++) {
      const date = new Date(Date.UTC(2025, 11, 1 + i))
      if (date.getUTCDay() % 6 === 0) continue
      const close = 20 + 5 * Math.sin(i / 9 + k) + i / (k + 2)
      const row = [close - 0.2, close + 0.5, close - 0.6, close].map((x) => x.toFixed(2))
      lines.push([symbol, date.toISOString().slice(0, 10), ...row, 1000 * (i + 1)].join(','))
    }
  }
  lines.splice(5, 0, 'TARN,someday,1,1,1,1,1')
  lines.splice(9, 0, 'TARN,2026-01-31,ten,1,1,1,1')
  return lines.join('\n')
}
