import { readFile } from 'node:fs/promises'
import { type NextRequest, NextResponse } from 'next/server'
import { isOwnPage } from '../../../ownPage'
import { pageBroker } from '../../../pageBroker'

export const dynamic = 'force-dynamic'

const refuse = (status: number, detail: string, mend: string) =>
  NextResponse.json(
    { type: 'about:blank', title: 'No demo token', status, detail, mend },
    { status, headers: { 'Content-Type': 'application/problem+json' } },
  )

/**
 * A short-lived token for the demo's own paper key. The secret stays on the server: the page never has it.
 * Answers only pages of this application on this machine.
 */
export async function POST(request: NextRequest) {
  if (!isOwnPage(request)) {
    return refuse(
      403,
      'The demo key is for pages of this application on this machine.',
      'Open the application at 127.0.0.1, or enter a key of your own.',
    )
  }
  const broker = await pageBroker()
  let key: { keyId: string; secret: string }
  try {
    key = JSON.parse(await readFile(broker.keyFile, 'utf8')) as typeof key
  } catch {
    return refuse(
      503,
      'The broker has not made the demo’s paper key yet.',
      'Wait a moment; the broker is starting.',
    )
  }
  try {
    const answer = await fetch(`${broker.url}/paper/token`, {
      method: 'POST',
      headers: {
        Authorization: `Basic ${Buffer.from(`${key.keyId}:${key.secret}`).toString('base64')}`,
        'Content-Type': 'application/x-www-form-urlencoded',
      },
      body: 'grant_type=client_credentials',
      cache: 'no-store',
    })
    const body = (await answer.json()) as Record<string, unknown>
    return NextResponse.json(answer.ok ? { ...body, keyId: key.keyId } : body, {
      status: answer.status,
      headers: { 'Cache-Control': 'no-store' },
    })
  } catch {
    return refuse(503, 'The broker is not there.', 'It is started again by itself; wait a moment.')
  }
}
