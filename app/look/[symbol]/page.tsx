import { type Metadata } from 'next'
import { LookPage } from '@/ui/look/LookPage'

type Props = { params: Promise<{ symbol: string }> }

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  return { title: `${decodeURIComponent((await params).symbol)} · Fleet Heron` }
}

export default async function Page({ params }: Props) {
  const symbol = decodeURIComponent((await params).symbol)
  return <LookPage key={symbol} symbol={symbol} />
}
