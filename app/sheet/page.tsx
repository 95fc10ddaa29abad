import { SheetPage } from '@/ui/sheet/SheetPage'

export default function Page() {
  return <SheetPage />
}
