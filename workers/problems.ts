import { FileFailure, type FileProblem } from '@/core/formats/problems'

/** What a worker says is wrong, as data; the words are in say.ts. */
export type WorkerProblem =
  /** A job asked for bars that this worker was never given. */
  | { code: 'data_missing'; data: string }
  | { code: 'job_unknown'; job: number }
  /** A set of bars does not fit in memory. */
  | { code: 'no_memory' }
  /** The worker broke, or could not be started; what it was told of the reason. */
  | { code: 'broken'; reason: string }
  | { code: 'file'; problem: FileProblem }
  /** Told in words already: by the broker, or by a plan that cannot run. */
  | { code: 'told'; message: string }
  /** A mistake of ours. */
  | { code: 'unexpected'; message: string }

/** Thrown where a worker's problem must pass through promises. */
export class WorkerFailure extends Error {
  constructor(readonly problem: WorkerProblem) {
    super(problem.code)
    this.name = 'WorkerFailure'
  }
}

/** What was thrown, as data that survives the way to the page. */
export function problemOf(error: unknown): WorkerProblem {
  if (error instanceof WorkerFailure) return error.problem
  if (error instanceof FileFailure) return { code: 'file', problem: error.problem }
  const { name, message } = error as Error
  if (name === 'RangeError' && /array buffer|allocation/i.test(message)) return { code: 'no_memory' }
  return { code: 'unexpected', message }
}
