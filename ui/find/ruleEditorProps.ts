import { type Checked } from '@/core/rules'

export interface RuleEditorProps {
  value: string
  onChange(text: string): void
  onRun(): void
  check(text: string): Checked
  label: string
  hint: string
  /** One line, as in a form: Enter runs it. */
  single?: boolean
  /** Takes the focus when it appears. */
  focus?: boolean
  onLeave?(): void
}
