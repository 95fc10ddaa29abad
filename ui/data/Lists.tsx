'use client'
import { Button, FileButton, Textarea, TextInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useRouter } from 'next/navigation'
import { useMemo, useState } from 'react'
import { readSymbols } from '@/core/formats/symbolList'
import { db, sayStorageError, type SymbolList } from '@/store/db'
import { chooseUniverse } from '../find/findStore'
import { useSecurities } from '../link/LinkProvider'
import { download } from '../shell/download'
import { tell, tellProblem } from '../shell/tell'

/** Characters beyond which symbols are not laid out in a field: the page would stand still over them. */
const LONG = 30_000

/** Lists of securities: written by hand, pasted, or from a file. */
export function Lists() {
  const router = useRouter()
  const lists = useLiveQuery(() => db.lists.orderBy('name').toArray(), [], [])
  const [editing, setEditing] = useState<SymbolList>()
  const fresh = (): SymbolList => ({ id: crypto.randomUUID(), name: '', symbols: [], changedAt: 0 })
  return (
    <section aria-label="My lists" style={{ marginBottom: 22 }}>
      <h2>Lists</h2>
      {lists.map((list) => (
        <p key={list.id} style={{ display: 'flex', gap: 8, alignItems: 'center', margin: '4px 0' }}>
          <strong>{list.name}</strong>
          <span className="soft" style={{ flex: 1 }}>
            {list.symbols.length.toLocaleString('en-US')}: {list.symbols.slice(0, 8).join(', ')}
            {list.symbols.length > 8 && ' …'}
          </span>
          <Button
            size="xs"
            variant="subtle"
            onClick={() =>
              void chooseUniverse({ is: 'list', listId: list.id }).then(() => router.push('/find'))
            }
          >
            scan it
          </Button>
          <Button size="xs" variant="subtle" onClick={() => setEditing(list)}>
            change
          </Button>
          <Button
            size="xs"
            variant="subtle"
            onClick={() =>
              download(`${list.name}.csv`, `symbol\r\n${list.symbols.join('\r\n')}\r\n`, 'text/csv')
            }
          >
            export
          </Button>
          <Button
            size="xs"
            variant="subtle"
            aria-label={`Remove the list ${list.name}`}
            onClick={() => void db.lists.delete(list.id)}
          >
            ×
          </Button>
        </p>
      ))}
      {editing ? (
        <ListEditor key={editing.id} list={editing} done={() => setEditing(undefined)} />
      ) : (
        <Button variant="default" onClick={() => setEditing(fresh())}>
          New list
        </Button>
      )}
    </section>
  )
}

function ListEditor({ list, done }: { list: SymbolList; done(): void }) {
  const securities = useSecurities().data
  const known = useMemo(() => securities && new Set(securities.map((s) => s.symbol)), [securities])
  const [name, setName] = useState(list.name)
  const [text, setText] = useState(list.symbols.join(' '))
  const read = useMemo(() => readSymbols(text, known), [text, known])
  const keep = async () => {
    try {
      await db.lists.put({ ...list, name: name.trim(), symbols: read.symbols, changedAt: Date.now() })
      tell(`Kept ${read.symbols.length.toLocaleString('en-US')} as “${name.trim()}”.`)
      done()
    } catch (error) {
      tellProblem(new Error(sayStorageError(error)))
    }
  }
  return (
    <div style={{ display: 'grid', gap: 8, maxWidth: 620 }}>
      <TextInput label="Name" value={name} maxLength={80} onChange={(e) => setName(e.currentTarget.value)} />
      {text.length > LONG ? (
        <p className="soft">
          The symbols are too many to be shown here.{' '}
          <Button size="xs" variant="subtle" onClick={() => setText('')}>
            begin anew
          </Button>
        </p>
      ) : (
        <Textarea
          label="Symbols"
          description="between spaces, commas or on lines; or choose a file with a symbol column"
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          autosize
          minRows={3}
          maxRows={8}
          styles={{ input: { fontFamily: 'var(--mono)' } }}
        />
      )}
      <FileButton
        accept=".csv,.txt,text/csv,text/plain"
        onChange={async (file) => {
          if (!file) return
          setText(await file.text())
          if (name === '') setName(file.name.replace(/\.\w+$/, ''))
        }}
        inputProps={{ 'aria-label': 'List from a file' }}
      >
        {(props) => (
          <Button variant="default" style={{ justifySelf: 'start' }} {...props}>
            Symbols from a file
          </Button>
        )}
      </FileButton>
      <p className={read.unknown.length > 0 ? 'warning' : 'soft'} role="status">
        {read.symbols.length.toLocaleString('en-US')} securities
        {read.unknown.length > 0 &&
          `; not listed and left out: ${read.unknown
            .slice(0, 6)
            .map((u) => `${u.word.slice(0, 20)} (line ${u.line})`)
            .join(', ')}${read.unknown.length > 6 ? ` and ${read.unknown.length - 6} more` : ''}`}
      </p>
      <p style={{ display: 'flex', gap: 8 }}>
        <Button onClick={keep} disabled={name.trim() === '' || read.symbols.length === 0}>
          Keep the list
        </Button>
        <Button variant="default" onClick={done}>
          Cancel
        </Button>
      </p>
    </div>
  )
}
