/**
 * Loaded first (`node --import`) by a process that another one starts: it ends when that one is gone, however it
 * went. The channel between them closes then, also where the other was killed and could not say anything.
 */
if (process.connected) {
  process.on('disconnect', () => {
    process.kill(process.pid, 'SIGTERM')
    // One that does not hear is ended all the same.
    setTimeout(() => process.kill(process.pid, 'SIGKILL'), 3_000).unref()
  })
  process.channel?.unref()
}
