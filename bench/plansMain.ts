import { benchPlans, benchPlansHour } from './plans'

/** What main.ts runs as a bundle of its own: plans as they are delivered, without what running from sources puts between. */
const lines = process.argv[2] === 'plans-hour' ? benchPlansHour(Number(process.argv[3] ?? 1)) : benchPlans()
for (const line of lines) console.log(JSON.stringify(line))
