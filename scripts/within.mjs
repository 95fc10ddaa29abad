import { execFileSync, spawn } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'

/** Exit code of a command that did not come to an end in its time, as of timeout(1) in coreutils. */
export const TIMED_OUT = 124

const alive = new Set()

/** Processes of a group that still run: id and command. */
export function groupOf(leader) {
  try {
    return readdirSync('/proc').flatMap((name) => {
      if (!/^\d+$/.test(name)) return []
      try {
        const stat = readFileSync(`/proc/${name}/stat`, 'utf8')
        const [state, , group] = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
        if (Number(group) !== leader || state === 'Z') return []
        return [
          `${name} ${readFileSync(`/proc/${name}/cmdline`, 'utf8').replaceAll('\0', ' ').trim().slice(0, 160)}`,
        ]
      } catch {
        return []
      }
    })
  } catch {
    // No /proc on this system: ps knows the same.
    const lines = execFileSync('ps', ['-A', '-o', 'pid=,pgid=,args=']).toString().split('\n')
    return lines
      .map((line) => /^\s*(\d+)\s+(\d+)\s+(.*)$/.exec(line))
      .filter((found) => found && Number(found[2]) === leader)
      .map((found) => `${found[1]} ${found[3].slice(0, 160)}`)
  }
}

function end(leader, signal) {
  try {
    process.kill(-leader, signal)
  } catch {
    // Nobody is left.
  }
}

/**
 * Runs a command as the leader of a group of its own and resolves to its exit code. Whatever it started ends with
 * it: what is left of the group when it ends is told and ended. After `minutes` it is ended itself, with a line for
 * each process that was still open, and the code is 124.
 */
export function within(minutes, command, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { stdio: 'inherit', ...options, detached: true })
    const leader = child.pid
    if (leader === undefined) {
      child.on('error', (error) => {
        console.error(`${command} could not be run: ${error.message}`)
        resolve(127)
      })
      return
    }
    alive.add(leader)
    let late = false
    const timer = setTimeout(() => {
      late = true
      console.error(`It did not end within ${minutes} minutes. Still open:`)
      for (const line of groupOf(leader)) console.error(`  ${line}`)
      end(leader, 'SIGTERM')
      setTimeout(() => end(leader, 'SIGKILL'), 3_000)
    }, minutes * 60_000)
    child.on('exit', (code, signal) => {
      clearTimeout(timer)
      const left = groupOf(leader)
      if (left.length > 0 && !late) {
        console.error('Left running, and ended now:')
        for (const line of left) console.error(`  ${line}`)
      }
      end(leader, 'SIGKILL')
      alive.delete(leader)
      resolve(late ? TIMED_OUT : (code ?? (signal ? 1 : 0)))
    })
  })
}

/** Ends every group that runs when this process is told to end. */
export function endWithMe() {
  for (const [signal, code] of [
    ['SIGINT', 130],
    ['SIGTERM', 143],
    ['SIGHUP', 129],
  ])
    process.on(signal, () => {
      for (const leader of alive) end(leader, 'SIGTERM')
      setTimeout(() => {
        for (const leader of alive) end(leader, 'SIGKILL')
        process.exit(code)
      }, 1_500)
    })
}
