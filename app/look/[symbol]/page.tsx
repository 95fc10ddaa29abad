import { LookPage } from '@/ui/look/LookPage'

type Props = { params: Promise<{ symbol: string }> }

export default async function Page({ params }: Props) {
  const symbol = decodeURIComponent((await params).symbol)
  return <LookPage key={symbol} symbol={symbol} />
}
