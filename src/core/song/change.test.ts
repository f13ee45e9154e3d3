import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { applyChange, findChange } from './change'

/** Documents of the kinds of parts that songs have: fields that come and go, plain lists, lists of items with ids that move. */
const item = fc.record({
  id: fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f', '1', '2'),
  level: fc.integer({ min: 0, max: 3 }),
  note: fc.option(fc.string({ maxLength: 3 }), { nil: null }),
})
const items = fc.uniqueArray(item, { selector: entry => entry.id, maxLength: 7 })
const document = fc.record(
  {
    title: fc.string({ maxLength: 4 }),
    frames: fc.array(fc.integer({ min: 0, max: 9 }), { maxLength: 5 }),
    items,
    nested: fc.uniqueArray(fc.record({ id: fc.constantFrom('x', 'y', 'z'), items }), { selector: entry => entry.id, maxLength: 3 }),
    extra: fc.integer(),
  },
  { requiredKeys: ['title', 'frames', 'items', 'nested'] },
)

test('a change leads from one document to the other and back again', () => {
  fc.assert(
    fc.property(document, document, (before, after) => {
      const change = findChange(before, after)
      if (!change) return expect(before).toEqual(after)
      expect(applyChange(before, change, 'after')).toEqual(after)
      expect(applyChange(after, change, 'before')).toEqual(before)
    }),
    { numRuns: 500 },
  )
})

test('equal documents have no change, however they were made', () => {
  fc.assert(fc.property(document, made => expect(findChange(made, JSON.parse(JSON.stringify(made)))).toBeNull()))
})

describe('what else has changed since', () => {
  const song = { title: 'A', takes: [{ id: 't1', level: null as number | null }], layers: [{ id: 'l1', name: 'Lead' }] }
  test('stays when one side of a change is put in place', () => {
    const renamed = { ...song, title: 'B' }
    const change = findChange(song, renamed)!
    const later = {
      ...renamed,
      takes: [
        { id: 't1', level: -20 },
        { id: 't2', level: null },
      ],
    }
    expect(applyChange(later, change, 'before')).toEqual({ ...later, title: 'A' })
  })
  test('an item that came is taken out wherever it stands by then, and the items after it stay', () => {
    const added = { ...song, takes: [...song.takes, { id: 'bounce', level: null }] }
    const change = findChange(song, added)!
    const later = { ...added, takes: [...added.takes, { id: 't2', level: null }] }
    expect(applyChange(later, change, 'before').takes.map(take => take.id)).toEqual(['t1', 't2'])
  })
  test('an item that went comes back behind the item that stood before it, or at the end where that is gone', () => {
    const full = [{ id: 'a' }, { id: 'b' }, { id: 'c' }]
    const change = findChange(full, [{ id: 'a' }, { id: 'c' }])!
    expect(applyChange([{ id: 'c' }, { id: 'a' }, { id: 'd' }], change, 'before').map(({ id }) => id)).toEqual(['c', 'a', 'b', 'd'])
    expect(applyChange([{ id: 'c' }, { id: 'd' }], change, 'before').map(({ id }) => id)).toEqual(['c', 'd', 'b'])
  })
  test('an item that is gone by now stays gone', () => {
    const change = findChange([{ id: 'a', name: 'x' }], [{ id: 'a', name: 'y' }])!
    expect(applyChange([{ id: 'b', name: 'z' }], change, 'before')).toEqual([{ id: 'b', name: 'z' }])
  })
})

test('a small edit of a large document is a small change', () => {
  const takes = Array.from({ length: 5_000 }, (_, i) => ({ id: `take-${i}`, name: `Pass ${i}`, starred: false }))
  const starred = takes.map((take, i) => (i === 2_500 ? { ...take, starred: true } : take))
  expect(JSON.stringify(findChange({ takes }, { takes: starred })).length).toBeLessThan(200)
  const more = [...takes, { id: 'new', name: 'Pass', starred: false }]
  expect(JSON.stringify(findChange({ takes }, { takes: more })).length).toBeLessThan(250)
})
