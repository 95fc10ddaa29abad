import { useHotkeys } from '@mantine/hooks'

/** Kinds of input in which nothing is typed: single keys go on working while one of them has the focus. */
const UNTYPED = new Set(['radio', 'checkbox', 'button', 'submit', 'reset', 'range', 'color', 'file', 'image'])

/** Whether text is being typed where a key was pressed. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false
  if (target.isContentEditable || target.closest('[role="textbox"], [contenteditable="true"]')) return true
  if (target instanceof HTMLTextAreaElement) return true
  if (target instanceof HTMLInputElement) return !UNTYPED.has(target.type) && !target.readOnly
  return false
}

/** Keys and what they do, wherever no text is being typed; also with a radio or a segmented control in focus. */
export function useKeys(keys: readonly (readonly [string, (event: KeyboardEvent) => void])[]): void {
  useHotkeys(
    keys.map(([key, act]) => [
      key,
      (event) => {
        if (isTyping(event.target)) return
        event.preventDefault()
        act(event)
      },
      { preventDefault: false },
    ]),
    [],
    true,
  )
}
