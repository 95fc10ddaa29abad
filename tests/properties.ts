import fc from 'fast-check'
import { cases } from './cases'

// Of properties that name no number of their own.
fc.configureGlobal({ numRuns: cases(60) })
