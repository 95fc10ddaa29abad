'use client'
import { lazy, Suspense } from 'react'
import css from './RuleEditor.module.css'
import { type RuleEditorProps } from './ruleEditorProps'

/** The editor is larger than the rest of the screen: the text stands there before it comes. */
const CodeEditor = lazy(() => import('./CodeEditor'))

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
