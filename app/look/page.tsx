import { LookStart } from '@/ui/look/LookStart'

export default function Page() {
  return <LookStart />
}
