import { benchOrder } from './order'
import { benchScan } from './scan'

/** Prints one JSON line for each thing measured; ratios are to a baseline measured in the same run. */
for (const line of [...benchScan(), ...(await benchOrder())]) console.log(JSON.stringify(line))
