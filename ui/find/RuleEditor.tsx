'use client'
import { lazy, Suspense } from 'react'
import { useFind } from './findStore'
import css from './RuleEditor.module.css'
import { type RuleEditorProps } from './ruleEditorProps'

/** Somebody wants to write, or has what they came for: a first result, or a moment to rest. */
const wanted = new Promise<void>((resolve) => {
  if (typeof window === 'undefined') return
  const go = () => {
    stop()
    resolve()
  }
  for (const event of ['pointerdown', 'keydown'])
    window.addEventListener(event, go, { once: true, capture: true })
  const stop = useFind.subscribe(({ result }) => result && setTimeout(go, 50))
  setTimeout(go, 4_000)
})

/** The editor is larger than the rest of the screen: the text stands there before it comes. */
const CodeEditor = lazy(() => wanted.then(() => import('./CodeEditor')))

/** Rule text to be written: with completion, colours and marks at what is wrong. */
export function RuleEditor(props: RuleEditorProps) {
  return (
    <Suspense
      fallback={
        <div className={css.editor}>
          <pre className={css.coming}>{props.value || ' '}</pre>
        </div>
      }
    >
      <CodeEditor {...props} />
    </Suspense>
  )
}
