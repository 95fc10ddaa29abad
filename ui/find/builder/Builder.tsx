'use client'
import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { Button } from '@mantine/core'
import { IconGripVertical, IconX } from '@tabler/icons-react'
import { parse } from '@/core/rules'
import {
  type Group,
  insertAt,
  moveTo,
  type Path,
  removeAt,
  replaceAt,
  ROW_RELATIONS,
  type Row,
  type RowRelation,
  rowsOf,
  textOfRows,
} from '@/core/rules/rows'
import { InlineChoice } from '../../ticket/Inline'
import css from './Builder.module.css'
import { ValueBlank } from './ValueBlank'

const NEW_ROW: Row = { kind: 'row', left: 'close', how: '>', right: 'sma(close, 70)', upper: '' }

/** How a sentence says a relation; a word stands for itself. */
const SAID: Record<RowRelation, string> = {
  '>': 'stands over',
  '<': 'stands under',
  '>=': 'stands at or over',
  '<=': 'stands at or under',
  '=': 'equals',
  between: 'lies between',
}

const idOf = (path: Path): string => path.join('.') || 'all'
const pathOf = (id: string): number[] => (id === 'all' ? [] : id.split('.').map(Number))

/**
 * The rule as sentences to fill in, for those who do not type: the same rule as the text, which may be edited on either side. Text
 * that is not sound yet cannot be shown as rows.
 */
export function Builder({ value, onChange }: { value: string; onChange(text: string): void }) {
  const { tree } = parse(value)
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  if (!tree && value.trim() !== '')
    return (
      <p className={css.unsound}>
        The text is not a rule yet, so it cannot be shown as rows. Mend it in the text, or{' '}
        <button
          type="button"
          className="blank"
          onClick={() => onChange(textOfRows({ kind: 'group', op: 'and', items: [NEW_ROW] }))}
        >
          begin anew
        </button>
        .
      </p>
    )
  const root: Group = tree ? rowsOf(tree) : { kind: 'group', op: 'and', items: [] }
  const put = (next: Group) => onChange(textOfRows(next))
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    put(moveTo(root, pathOf(String(active.id)), pathOf(String(over.id))))
  }
  return (
    <div className={css.builder} aria-label="Rule as rows">
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
        <GroupRows root={root} group={root} path={[]} put={put} />
      </DndContext>
    </div>
  )
}

function GroupRows({
  root,
  group,
  path,
  put,
}: {
  root: Group
  group: Group
  path: Path
  put(next: Group): void
}) {
  const ids = group.items.map((_, i) => idOf([...path, i]))
  return (
    <div className={path.length > 0 ? css.group : undefined}>
      <div className={css.groupHead}>
        <span className={css.lead}>
          <InlineChoice
            label="How many must hold"
            value={group.op}
            options={[
              ['and', 'All of these'],
              ['or', 'At least one of these'],
            ]}
            onChange={(op) => put(replaceAt(root, path, { ...group, op }))}
          />{' '}
          {path.length > 0 ? 'together:' : 'must hold:'}
        </span>
        <Button
          size="xs"
          variant="subtle"
          onClick={() => put(insertAt(root, [...path, group.items.length], NEW_ROW))}
        >
          + condition
        </Button>
        <Button
          size="xs"
          variant="subtle"
          onClick={() =>
            put(
              insertAt(root, [...path, group.items.length], {
                kind: 'group',
                op: group.op === 'and' ? 'or' : 'and',
                items: [NEW_ROW, { ...NEW_ROW, right: 'sma(close, 33)' }],
              }),
            )
          }
        >
          + group
        </Button>
        {path.length > 0 && (
          <Button size="xs" variant="subtle" onClick={() => put(removeAt(root, path))}>
            remove the group
          </Button>
        )}
      </div>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {group.items.map((item, i) => (
          <Sortable key={ids[i]} id={ids[i]}>
            {item.kind === 'group' ? (
              <GroupRows root={root} group={item} path={[...path, i]} put={put} />
            ) : (
              <ConditionRow
                row={item}
                onChange={(row) => put(replaceAt(root, [...path, i], row))}
                onRemove={() => put(removeAt(root, [...path, i]))}
              />
            )}
          </Sortable>
        ))}
      </SortableContext>
    </div>
  )
}

function Sortable({ id, children }: { id: string; children: React.ReactNode }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id })
  return (
    <div
      ref={setNodeRef}
      className={css.item}
      data-dragging={isDragging || undefined}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        className={css.grip}
        {...attributes}
        {...listeners}
        aria-label="Drag to another place"
      >
        <IconGripVertical size={14} />
      </button>
      {children}
    </div>
  )
}

function ConditionRow({ row, onChange, onRemove }: { row: Row; onChange(row: Row): void; onRemove(): void }) {
  const condition = row.how === 'holds' || row.how === 'does not hold'
  const choose = (how: RowRelation) => {
    const wasCondition = condition
    const isCondition = how === 'holds' || how === 'does not hold'
    // A yes/no cannot stand where a number stood, nor the other way round.
    const left = wasCondition === isCondition ? row.left : isCondition ? 'new high(252)' : 'close'
    const right = isCondition ? '' : row.right || 'sma(close, 70)'
    const upper = how === 'between' ? row.upper || '100' : ''
    onChange({ ...row, how, left, right: how === 'between' && row.right === '' ? '50' : right, upper })
  }
  return (
    <p className={css.row}>
      <ValueBlank
        label="Left side"
        value={row.left}
        condition={condition}
        onChange={(left) => onChange({ ...row, left })}
      />{' '}
      <InlineChoice
        label="How they stand"
        value={row.how}
        options={ROW_RELATIONS.map((how) => [how, SAID[how] ?? how] as const)}
        onChange={choose}
      />{' '}
      {!condition && (
        <ValueBlank label="Right side" value={row.right} onChange={(right) => onChange({ ...row, right })} />
      )}
      {row.how === 'between' && (
        <>
          {' and '}
          <ValueBlank
            label="Upper bound"
            value={row.upper}
            onChange={(upper) => onChange({ ...row, upper })}
          />
        </>
      )}
      <button type="button" className={css.remove} aria-label="Remove the condition" onClick={onRemove}>
        <IconX size={14} />
      </button>
    </p>
  )
}
