/** How many of `n` ascending things, from the first on, are at or below a bound: those for which `isUpTo` holds. Binary search. */
export function countUpTo(n: number, isUpTo: (index: number) => boolean): number {
  let [low, high] = [0, n]
  while (low < high) {
    const middle = (low + high) >> 1
    if (isUpTo(middle)) low = middle + 1
    else high = middle
  }
  return low
}
