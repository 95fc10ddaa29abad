'use client'
import {
  autocompletion,
  closeBrackets,
  completionKeymap,
  type CompletionContext,
  startCompletion,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { type Diagnostic, linter } from '@codemirror/lint'
import { EditorState, type Extension, Prec, RangeSetBuilder } from '@codemirror/state'
import {
  Decoration,
  type DecorationSet,
  EditorView,
  keymap,
  placeholder,
  ViewPlugin,
  type ViewUpdate,
} from '@codemirror/view'
import { useEffect, useLayoutEffect, useRef } from 'react'
import { complete, inkOf, sayIssue, type Checked } from '@/core/rules'
import css from './RuleEditor.module.css'
import { type RuleEditorProps } from './ruleEditorProps'

/** Rule text with its ink, completion and marks at what is wrong; Ctrl+Enter runs it, in one line Enter does. */
export default function CodeEditor({
  value,
  onChange,
  onRun,
  check,
  label,
  hint,
  single = false,
  focus = false,
  onLeave,
}: RuleEditorProps) {
  const host = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView>(undefined)
  const calls = useRef({ onChange, onRun, check, onLeave })
  useLayoutEffect(() => {
    calls.current = { onChange, onRun, check, onLeave }
  })

  useEffect(() => {
    const editor = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: '',
        extensions: [
          Prec.highest(keymap.of([{ key: 'Mod-Enter', run: () => (calls.current.onRun(), true) }])),
          keymap.of([
            ...completionKeymap,
            ...(single ? [{ key: 'Enter', run: () => (calls.current.onRun(), true) }] : []),
            ...defaultKeymap,
            ...historyKeymap,
            { key: 'Alt-ArrowDown', run: startCompletion },
          ]),
          history(),
          closeBrackets(),
          ...(single ? [oneLine] : [EditorView.lineWrapping]),
          EditorView.domEventHandlers({ blur: () => calls.current.onLeave?.() }),
          EditorView.contentAttributes.of({
            'aria-label': label,
            spellcheck: 'false',
            autocapitalize: 'off',
          }),
          placeholder(hint),
          ink(),
          autocompletion({ override: [suggest], icons: false }),
          linter((v) => marks(v.state.doc.toString(), calls.current.check), { delay: 250 }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) calls.current.onChange(update.state.doc.toString())
          }),
        ],
      }),
    })
    view.current = editor
    if (focus) editor.focus()
    return () => editor.destroy()
  }, [label, hint, single, focus])

  // Text that comes from elsewhere (a saved scan) replaces what is there; typing does not pass this way twice.
  useEffect(() => {
    const editor = view.current
    if (editor && editor.state.doc.toString() !== value) {
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } })
    }
  }, [value, label, hint, single, focus])

  return <div ref={host} className={single ? `${css.editor} ${css.single}` : css.editor} />
}

/** What is pasted over several lines stands in one. */
const oneLine = EditorState.transactionFilter.of((change) =>
  change.newDoc.lines > 1
    ? {
        changes: {
          from: 0,
          to: change.startState.doc.length,
          insert: change.newDoc.toString().replace(/\s*\n\s*/g, ' '),
        },
      }
    : change,
)

function marks(text: string, check: (text: string) => Checked): Diagnostic[] {
  if (text.trim() === '') return []
  return check(text).issues.map((issue) => ({
    from: Math.min(issue.at.from, text.length),
    to: Math.min(Math.max(issue.at.to, issue.at.from + 1), text.length),
    severity: 'error',
    message: sayIssue(issue),
  }))
}

function suggest(context: CompletionContext) {
  const typing = context.matchBefore(/[A-Za-z_]+$/)
  if (!typing && !context.explicit && !context.matchBefore(/\.$/)) return null
  const { from, suggestions } = complete(context.state.doc.toString(), context.pos)
  return {
    from,
    // What fits by its explanation does not begin with what was typed.
    filter: false,
    options: suggestions.map((s) => ({ label: s.label, detail: s.detail, info: s.doc, apply: s.insert })),
  }
}

/** Colours words, names and values, in half-typed text too. */
function ink(): Extension {
  const build = (view: EditorView): DecorationSet => {
    const builder = new RangeSetBuilder<Decoration>()
    for (const { from, to, ink: kind } of inkOf(view.state.doc.toString()))
      builder.add(from, to, Decoration.mark({ class: `ink-${kind}` }))
    return builder.finish()
  }
  return ViewPlugin.fromClass(
    class {
      decorations: DecorationSet
      constructor(view: EditorView) {
        this.decorations = build(view)
      }
      update(update: ViewUpdate) {
        if (update.docChanged) this.decorations = build(update.view)
      }
    },
    { decorations: (plugin) => plugin.decorations },
  )
}
