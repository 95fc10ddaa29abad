import { type ChildProcess, execFile, spawn } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { brokerBundle } from '../scripts/bundle.mjs'
import { freePort } from '../tests/process'

const answering = async (url: string): Promise<boolean> =>
  fetch(url).then(
    (answer) => answer.ok,
    () => false,
  )

interface Secret {
  keyId: string
  secret: string
}

/** A program of ours with a data folder of its own, and what a test does at its broker. */
export abstract class Running {
  readonly dataDir = mkdtempSync(join(tmpdir(), 'heron-e2e-'))
  brokerPort = 0
  private child: ChildProcess | undefined
  private said = ''

  /** Where its pages are. */
  abstract readonly url: string

  get brokerUrl(): string {
    return `http://127.0.0.1:${this.brokerPort}`
  }

  get keyFile(): string {
    return join(this.dataDir, 'broker', 'paper-key.json')
  }

  /** Runs a program of the repository until it answers at all of these addresses. */
  protected async run(
    program: string[],
    env: Record<string, string>,
    addresses: () => string[],
  ): Promise<void> {
    this.brokerPort ||= await freePort()
    // The channel ends the program with the test process, however that ends.
    const child = spawn(process.execPath, program, {
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      env: {
        ...process.env,
        HERON_BROKER_PORT: String(this.brokerPort),
        HERON_DATA: this.dataDir,
        ...env,
      },
    })
    this.child = child
    child.channel?.unref()
    for (const stream of [child.stdout, child.stderr])
      stream!.on('data', (part: Buffer) => (this.said += part.toString()))
    for (let tries = 0; tries < 2400; tries++) {
      if (child.exitCode !== null) throw new Error(`It ended: ${this.said}`)
      if ((await Promise.all(addresses().map(answering))).every(Boolean)) return
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error(`It does not answer: ${this.said}`)
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
    return this.requestAs(JSON.parse(readFileSync(this.keyFile, 'utf8')) as Secret, method, path, body)
  }

  /** Asks with another key, of so many rights, which is made now. */
  async keyFor(scopes: string[]): Promise<<T>(method: string, path: string, body?: unknown) => Promise<T>> {
    const made = await this.request<{ keyId: string; secret: string }>('POST', '/paper/keys', {
      ...{ label: 'a script', scopes },
    })
    return (method, path, body) => this.requestAs(made, method, path, body)
  }

  private async requestAs<T>(
    { keyId, secret }: Secret,
    method: string,
    path: string,
    body?: unknown,
  ): Promise<T> {
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

/** The demo as the trader starts it. */
export class Demo extends Running {
  port = 0
  /** The folder in which the command line runs plans on this machine. */
  readonly plans = join(this.dataDir, 'plans')
  /** Other brokers that its pages may choose, by name. */
  readonly brokers = join(this.dataDir, 'brokers.json')

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  async start(): Promise<void> {
    this.port ||= await freePort()
    await this.run(
      ['scripts/demo.mjs'],
      { PORT: String(this.port), HERON_BROKERS: this.brokers, HERON_PLANS: this.plans },
      () => [`${this.url}/find`, `${this.brokerUrl}/health`],
    )
  }

  /** Kills the broker's process as a crash would; the demo starts it again. */
  killBroker(): void {
    const pid = Number(readFileSync(join(this.dataDir, 'broker', 'broker.lock'), 'utf8'))
    process.kill(pid, 'SIGKILL')
  }
}

/** A broker of a test's own, beside the one of a demo whose pages talk to it instead. */
export class OwnBroker extends Running {
  readonly name = `own-${randomUUID()}`

  constructor(private readonly demo: Demo) {
    super()
  }

  get url(): string {
    return this.demo.url
  }

  async start(): Promise<void> {
    const program = ['--import', './scripts/endsWithParent.mjs', await brokerBundle()]
    await this.run(program, {}, () => [`${this.brokerUrl}/health`])
    const named = { [this.name]: { url: this.brokerUrl, keyFile: this.keyFile } }
    writeFileSync(this.demo.brokers, JSON.stringify(named))
  }
}

/** Starts one, does the work, and ends it however that ends. */
export async function running<T extends Demo | OwnBroker>(
  one: T,
  work: (one: T) => Promise<void>,
): Promise<void> {
  try {
    await one.start()
    await work(one)
  } finally {
    await one.stop()
    one.remove()
  }
}
