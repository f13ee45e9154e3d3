/** The difference between two states of a document. It can be applied forwards and backwards, and leaves alone what other changes did since. */

/** The value of a field, item or list before and after; absent where there was none. */
interface ValueChange {
  kind: 'value'
  before?: unknown
  after?: unknown
}

interface FieldsChange {
  kind: 'fields'
  fields: Record<string, Change>
}

interface ItemChange {
  id: string
  change: Change
  /** For an item that comes or goes: the item it stands behind in the list that has it; null at its head. */
  behind?: string | null
}

/** Of a list whose items have ids: only the items that differ, found by id wherever they stand by then. */
interface ItemsChange {
  kind: 'items'
  items: ItemChange[]
  /** Ids of both lists, where the items that are in both do not keep their order. */
  order?: { before: string[]; after: string[] }
}

export type Change = ValueChange | FieldsChange | ItemsChange
export type Side = 'before' | 'after'

type Fields = Record<string, unknown>
type Item = Fields & { id: string }

/** Null if both are equal. Parts that are the very same object are not looked into, so that a small edit of a large document costs little. */
export function findChange(before: unknown, after: unknown): Change | null {
  if (Object.is(before, after)) return null
  if (Array.isArray(before) && Array.isArray(after)) {
    if (areItems(before) && areItems(after)) return findItemsChange(before, after)
    return areEqual(before, after) ? null : { kind: 'value', before, after }
  }
  if (isFields(before) && isFields(after)) {
    const fields: Record<string, Change> = {}
    for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
      const change = findFieldChange(before, after, key)
      if (change) fields[key] = change
    }
    return Object.keys(fields).length > 0 ? { kind: 'fields', fields } : null
  }
  return { kind: 'value', before, after }
}

function findFieldChange(before: Fields, after: Fields, key: string): Change | null {
  if (!(key in before)) return { kind: 'value', after: after[key] }
  if (!(key in after)) return { kind: 'value', before: before[key] }
  return findChange(before[key], after[key])
}

function findItemsChange(before: readonly Item[], after: readonly Item[]): ItemsChange | null {
  const old = new Map(before.map(item => [item.id, item]))
  const fresh = new Map(after.map(item => [item.id, item]))
  const items: ItemChange[] = []
  before.forEach((item, i) => {
    if (!fresh.has(item.id)) items.push({ id: item.id, change: { kind: 'value', before: item }, behind: before[i - 1]?.id ?? null })
  })
  after.forEach((item, i) => {
    const was = old.get(item.id)
    if (!was) items.push({ id: item.id, change: { kind: 'value', after: item }, behind: after[i - 1]?.id ?? null })
    else {
      const change = findChange(was, item)
      if (change) items.push({ id: item.id, change })
    }
  })
  const kept = before.filter(item => fresh.has(item.id))
  const inOrder = after.filter(item => old.has(item.id)).every((item, i) => item.id === kept[i].id)
  if (items.length === 0 && inOrder) return null
  return inOrder ? { kind: 'items', items } : { kind: 'items', items, order: { before: before.map(({ id }) => id), after: after.map(({ id }) => id) } }
}

/**
 * The document with one side of a change put in place. What the change does not name stays as it is by now; an item it
 * names that is gone by now stays gone.
 * @param value Not changed; parts that stay are shared with the result.
 */
export function applyChange<T>(value: T, change: Change, side: Side): T {
  return applied(value, change, side) as T
}

function applied(value: unknown, change: Change, side: Side): unknown {
  if (change.kind === 'value') return change[side]
  if (change.kind === 'items') return Array.isArray(value) ? applyItems(value as Item[], change, side) : value
  if (!isFields(value)) return value
  const result: Fields = { ...value }
  for (const [key, part] of Object.entries(change.fields)) {
    if (part.kind === 'value' && !(side in part)) delete result[key]
    else result[key] = applied(result[key], part, side)
  }
  return result
}

function applyItems(list: readonly Item[], { items, order }: ItemsChange, side: Side): Item[] {
  const changes = new Map(items.map(item => [item.id, item.change]))
  const result = list.flatMap(item => {
    const change = changes.get(item.id)
    if (!change) return [item]
    return change.kind === 'value' && !(side in change) ? [] : [applied(item, change, side) as Item]
  })
  for (const { id, change, behind } of items) {
    if (change.kind !== 'value' || behind === undefined || !(side in change) || result.some(item => item.id === id)) continue
    const place = behind === null ? 0 : result.findIndex(item => item.id === behind) + 1
    // Where the item before it is gone, the end is as good as any place.
    result.splice(behind !== null && place === 0 ? result.length : place, 0, change[side] as Item)
  }
  if (!order) return result
  const ranks = new Map(order[side].map((id, rank) => [id, rank]))
  const rankOf = (item: Item) => ranks.get(item.id) ?? ranks.size
  return result.sort((a, b) => rankOf(a) - rankOf(b))
}

function isFields(value: unknown): value is Fields {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

function areItems(list: readonly unknown[]): list is Item[] {
  const ids = new Set<string>()
  for (const entry of list) if (isFields(entry) && typeof entry.id === 'string') ids.add(entry.id)
  return ids.size === list.length
}

function areEqual(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((entry, i) => areEqual(entry, b[i]))
  if (!isFields(a) || !isFields(b)) return false
  const keys = Object.keys(a)
  return keys.length === Object.keys(b).length && keys.every(key => key in b && areEqual(a[key], b[key]))
}
