import { DataPage } from '@/ui/data/DataPage'

export default function Page() {
  return <DataPage />
}
