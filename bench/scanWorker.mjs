import { register } from 'tsx/esm/api'

// A worker thread does not take over the loader of its parent.
register()
await import('./scanWorker.ts')
