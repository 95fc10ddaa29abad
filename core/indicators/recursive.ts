/**
 * Recursive smoothing that begins with the plain mean of the first n known values and then takes `weight` of
 * each new value. An unknown value makes the output unknown and starts the warm-up again. The form is a
 * sum of differences, so a constant series stays exactly constant.
 */
export function smooth(src: Float64Array, n: number, weight: number, out: Float64Array): void {
  let seen = 0
  let sum = 0
  let value = NaN
  for (let i = 0; i < src.length; i++) {
    const x = src[i]
    if (x !== x) {
      seen = 0
      sum = 0
      out[i] = NaN
      continue
    }
    if (seen < n) {
      sum += x
      seen++
      value = sum / n
      out[i] = seen === n ? value : NaN
    } else {
      value += (x - value) * weight
      out[i] = value
    }
  }
}
