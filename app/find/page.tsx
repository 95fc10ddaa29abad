import { FindPage } from '@/ui/find/FindPage'

export default function Page() {
  return <FindPage />
}
