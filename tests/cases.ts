/** How many times as many cases a property is tried on as usual: HERON_CASES, 1 where it is not set. */
const TIMES = Number(process.env.HERON_CASES ?? 1)
if (!(TIMES > 0)) throw new Error(`HERON_CASES is "${process.env.HERON_CASES}"; give a number above 0.`)

/** Cases of a property, so many as a usual run takes: few enough that it stays short, with more to be had before a change that is far-reaching. */
export const cases = (usual: number): number => Math.ceil(usual * TIMES)
