import { FileFailure } from '@/core/formats/problems'
import { sayFile } from '@/core/formats/say'
import { WorkerFailure, type WorkerProblem } from './problems'

/** A worker's problem in words: what happened, and what to do. */
export function sayWorkerProblem(problem: WorkerProblem): string {
  switch (problem.code) {
    case 'data_missing':
      return `The bars (${problem.data}) were not loaded. Scan again.`
    case 'job_unknown':
      return 'The scan was ended before it was done. Scan again.'
    case 'no_memory':
      return 'There is not enough memory for so many bars. Close other tabs, or scan fewer securities.'
    case 'broken':
      return `The work in the background stopped: ${problem.reason}. Try it again.`
    case 'file':
      return sayFile(problem.problem)
    case 'told':
      return problem.message
    case 'unexpected':
      return `An error of the program itself: ${problem.message}. Try it again; the rest is not affected.`
  }
}

/** Anything that was thrown on the way to a worker or a file and back, in words. */
export function sayFailure(error: unknown): string {
  if (error instanceof WorkerFailure) return sayWorkerProblem(error.problem)
  return error instanceof FileFailure ? sayFile(error.problem) : (error as Error).message
}
