import { type ChildProcess, spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { brokerBundle } from '../scripts/bundle.mjs'

export const ROOT = process.cwd()

/** A port that nothing listens on now. */
export const freePort = (): Promise<number> =>
  new Promise((resolve, reject) => {
    const probe = createServer().once('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })

/** Commands that run: one that a failed test left behind ends with the test process. */
const ours = new Set<ChildProcess>()
process.once('exit', () => ours.forEach((child) => child.kill('SIGKILL')))

export interface Ended {
  code: number | null
  out: string
  err: string
}

/** Runs a command to its end. */
export function run(
  command: string,
  args: readonly string[],
  options: { input?: string; env?: Record<string, string>; cwd?: string } = {},
): Promise<Ended> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd: options.cwd ?? ROOT,
      env: { ...process.env, NODE_OPTIONS: '', ...options.env },
    })
    ours.add(child)
    let [out, err] = ['', '']
    child.stdout.on('data', (part: Buffer) => (out += part.toString()))
    child.stderr.on('data', (part: Buffer) => (err += part.toString()))
    child.on('error', reject)
    child.on('close', (code) => {
      ours.delete(child)
      resolve({ code, out, err })
    })
    child.stdin.end(options.input ?? '')
  })
}

/** The real broker as a process of its own. */
export class BrokerProcess {
  private child: ChildProcess | undefined
  said = ''

  constructor(
    readonly dataDir: string,
    readonly port: number,
    private readonly env: Record<string, string> = {},
  ) {}

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  get keyFile(): string {
    return join(this.dataDir, 'broker', 'paper-key.json')
  }

  async start(): Promise<void> {
    // The channel ends the broker with the test process, however that ends.
    const args = ['--import', './scripts/endsWithParent.mjs', await brokerBundle()]
    const child = spawn(process.execPath, args, {
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      cwd: ROOT,
      env: {
        ...process.env,
        NODE_OPTIONS: '',
        HERON_DATA: this.dataDir,
        HERON_BROKER_PORT: String(this.port),
        ...this.env,
      },
    })
    this.child = child
    child.channel?.unref()
    for (const stream of [child.stdout, child.stderr])
      stream!.on('data', (part: Buffer) => (this.said += part.toString()))
    for (let tries = 0; tries < 1_200; tries++) {
      if (child.exitCode !== null) {
        await new Promise((resolve) => setImmediate(resolve))
        throw new Error(`The broker ended: ${this.said}`)
      }
      if (
        await fetch(`${this.url}/health`).then(
          (a) => a.ok,
          () => false,
        )
      )
        return
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error(`The broker does not answer: ${this.said}`)
  }

  /** Waits until the process is gone by itself; its exit code. */
  async gone(): Promise<number | null> {
    const child = this.child
    if (!child) return null
    if (child.exitCode === null && child.signalCode === null)
      await new Promise((resolve) => child.once('close', resolve))
    return child.exitCode
  }

  get pid(): number | undefined {
    return this.child?.pid
  }

  /** Ends the process with a signal and waits until it is gone; one that does not hear is killed. */
  async end(signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
    const child = this.child
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill(signal)
    const timer = setTimeout(() => child.kill('SIGKILL'), 10_000)
    await gone
    clearTimeout(timer)
  }

  async token(): Promise<string> {
    const { keyId, secret } = JSON.parse(readFileSync(this.keyFile, 'utf8')) as {
      keyId: string
      secret: string
    }
    const answer = await fetch(`${this.url}/paper/token`, {
      method: 'POST',
      headers: { Authorization: `Basic ${Buffer.from(`${keyId}:${secret}`).toString('base64')}` },
      body: new URLSearchParams({ grant_type: 'client_credentials' }),
    })
    return ((await answer.json()) as { access_token: string }).access_token
  }

  private granted: Promise<string> | undefined

  /**
   * What the paper world answers to the demo's own key. Asked again where the key's token has run out, and where a connection that was
   * kept was closed on the other side at that moment: on a busy machine both happen.
   */
  async ask<T>(method: string, path: string, body?: object): Promise<T> {
    for (let left = 3; ; left--) {
      this.granted ??= this.token()
      const token = await this.granted
      const asked = fetch(`${this.url}/paper${path}`, {
        method,
        headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
        ...(body ? { body: JSON.stringify(body) } : {}),
      })
      const answer = await (left > 0 ? asked.catch(() => undefined) : asked)
      if (answer && (answer.status !== 401 || left === 0)) return (await answer.json()) as T
      if (answer) this.granted = undefined
    }
  }
}
