/** Which rows of a long list exist: the rows in view, and neighbours above and below that were made while the browser was idle. */
import { startTransition, useEffect, useState } from 'react'

/** From an index to before another. */
export interface RowRange {
  from: number
  to: number
}

export interface MadeRows {
  list: readonly unknown[]
  view: RowRange
  /** In view at one time or another, without a gap. */
  seen: RowRange
  made: RowRange
}

/** Made ahead on each side of the view; what lies further away goes. */
export const AHEAD_ROWS = 64
/** A row takes about this long to make. Frames may be drawn all the while, so there is seldom more. */
const IDLE_MILLISECONDS = 8
/** On a machine that never has so much, a row is made all the same after this long. */
const LONGEST_WAIT_MILLISECONDS = 500

/** @param first The first row in view, `last` the last; -1 without any. */
export function useMadeRows(list: readonly unknown[], first: number, last: number): MadeRows {
  const [state, setState] = useState<MadeRows>(() => ({ list, view: { from: 0, to: 0 }, seen: { from: 0, to: 0 }, made: { from: 0, to: 0 } }))
  const rows = withView(state, list, { from: first, to: last + 1 })
  if (rows !== state) setState(rows)
  useEffect(() => {
    if (withOneMore(rows) !== rows) return whenIdle(() => startTransition(() => setState(withOneMore)))
  }, [rows])
  return rows
}

/** The rows once others are in view; the same object if they are not. */
export function withView(rows: MadeRows, list: readonly unknown[], view: RowRange): MadeRows {
  if (rows.list === list && rows.view.from === view.from && rows.view.to === view.to) return rows
  const inList = ({ from, to }: RowRange): RowRange => ({ from: Math.min(from, list.length), to: Math.min(to, list.length) })
  const made = union(inList(rows.made), view)
  return {
    list,
    view,
    seen: rows.list === list ? union(rows.seen, view) : view,
    made: { from: Math.max(made.from, view.from - AHEAD_ROWS), to: Math.min(made.to, view.to + AHEAD_ROWS) },
  }
}

/** With the next row made that is nearest to the view; the same object if there is none to be made. */
export function withOneMore(rows: MadeRows): MadeRows {
  const { list, view, made } = rows
  const below = made.to < Math.min(list.length, view.to + AHEAD_ROWS)
  const above = made.from > Math.max(0, view.from - AHEAD_ROWS)
  if (below && (!above || made.to - view.to <= view.from - made.from)) return { ...rows, made: { from: made.from, to: made.to + 1 } }
  return above ? { ...rows, made: { from: made.from - 1, to: made.to } } : rows
}

/** Both as one, if nothing lies between them; else the second. */
function union(a: RowRange, b: RowRange): RowRange {
  return a.to < b.from || b.to < a.from ? b : { from: Math.min(a.from, b.from), to: Math.max(a.to, b.to) }
}

/** Calls back when the browser has time; the answer cancels it. */
function whenIdle(callback: () => void): () => void {
  if (typeof requestIdleCallback !== 'function') {
    const timer = setTimeout(callback, LONGEST_WAIT_MILLISECONDS)
    return () => clearTimeout(timer)
  }
  const until = performance.now() + LONGEST_WAIT_MILLISECONDS
  const ask = () => requestIdleCallback(look, { timeout: LONGEST_WAIT_MILLISECONDS })
  const look = (deadline: IdleDeadline) => {
    if (deadline.timeRemaining() >= IDLE_MILLISECONDS || performance.now() >= until) callback()
    else asked = ask()
  }
  let asked = ask()
  return () => cancelIdleCallback(asked)
}
