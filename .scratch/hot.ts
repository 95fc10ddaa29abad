import { Exchange } from '@/broker/exchange/exchange'
import { Markets } from '@/broker/market/markets'
import { emptyBook } from '@/core/book/book'
const NOW = Date.parse('2026-03-16T13:42:00Z')
const SYMBOLS = ['OSPRY', 'GANET', 'KIPPR', 'HERRG', 'BUOYS', 'CHNDL', 'SUNDG', 'TERNW']
const resting = (k: number) =>
  ({
    clOrdId: `rest-${k}`,
    symbol: SYMBOLS[k % 8],
    side: 'Buy',
    orderQty: 1,
    ordType: 'Limit',
    price: 0.05,
    timeInForce: 'GoodTillCancel',
  }) as never
const ex = new Exchange(
  new Markets('bench', '2026-01-12', '2026-06-30'),
  emptyBook(500_000_000),
  () => undefined,
)
const n = Number(process.argv[2])
let t = performance.now()
for (let k = 0; k < n; k++) ex.submit(resting(k), NOW)
console.log('submit', n, ((performance.now() - t) / n).toFixed(3), 'ms each')
for (let r = 0; r < 3; r++) {
  t = performance.now()
  for (let k = 0; k < 2000; k++)
    ex.check({ ...(resting(0) as object), clOrdId: 'w' } as never, NOW + k * 1000)
  console.log('check', ((performance.now() - t) / 2000).toFixed(3), 'ms each')
}
