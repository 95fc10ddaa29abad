import { DeskPage } from '@/ui/desk/DeskPage'

export default function Page() {
  return <DeskPage />
}
