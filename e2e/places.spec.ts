import { spawn } from 'node:child_process'
import { expect, test } from './app'

test('what the command line runs is ended by arming it in the page, which goes on with what it has seen', async ({
  page,
  own,
  demo,
}) => {
  await own.request('POST', '/paper/market-time', { running: false })
  const key = ['--broker', own.brokerUrl, '--key-file', own.keyFile, '--folder', demo.plans]
  const runner = spawn(process.execPath, [
    'bin/heron.mjs',
    'run',
    'plans/fast-over-slow.json',
    '--arm',
    ...key,
  ])
  let out = ''
  runner.stdout.on('data', (part: Buffer) => (out += part.toString()))
  const over = new Promise((resolve) => runner.once('close', resolve))
  try {
    await expect.poll(() => out, { timeout: 120_000 }).toContain('armed: fast-over-slow')
    await page.goto(`${demo.url}/plan`)
    // What the command line runs moves the examples down when it has come.
    await expect(page.getByRole('navigation', { name: 'Plans' })).toContainText('fast-over-slow')
    await page.getByRole('button', { name: '+ Fast over slow' }).click()
    const plan = page.getByRole('region', { name: 'Plan', exact: true })
    await plan.getByRole('button', { name: 'Arm in paper PAPER-1 …' }).click()
    const dialog = page.getByRole('dialog')
    await expect(dialog).toContainText(
      'The command line runs version 1 of it on this machine (armed): that is ended first',
    )
    await dialog.getByRole('button', { name: 'Arm in paper' }).click()
    await expect(plan).toContainText('Version 1, armed in paper PAPER-1: acts on its own')
    await over
    expect(out).toContain('stopped: armed in a page of the application')
    await expect(page.getByRole('navigation', { name: 'Plans' })).toContainText('fast-over-slow over')
  } finally {
    runner.kill('SIGKILL')
  }
})
