/** The takes under each other, only those near the view made; the thread and its seams over them. */
import { useVirtualizer } from '@tanstack/react-virtual'
import { memo, useCallback, useEffect, useMemo, useRef, useState, type CSSProperties } from 'react'
import type { Proposal } from '../../../core/comp/propose-comp'
import type { LayerId, TakeId } from '../../../core/song/schema'
import { isBounceStale } from '../../../core/comp/bounces'
import { currentComp, overlapFrames, requireLayer, requireTake } from '../../../core/song/select'
import { setAside } from '../../shared/time-view'
import { useVoices } from '../../song/voices'
import { useBench, type Row } from './bench-store'
import { FaintThread } from './faint-thread'
import { textOfUse, useRowFacts } from './row-facts'
import { pickedIn, rowKey, usesOf } from './rows'
import { SeamHandles } from './seam-handles'
import { useMadeRows } from './made-rows'
import { LABEL_WIDTH, TakeStrip, type TakeStripProps } from './take-strip'
import { Thread } from './thread'
import type { Bench } from './use-bench'

const ROW_HEIGHT = 74
const NOTES_ROW_HEIGHT = 108
const WINDOW_ROWS = 4
const SETTLE_MILLISECONDS = 120
// Plain styles, for the same reason as in a strip.
const SCROLLER: CSSProperties = { flex: '1 1 auto', minHeight: 0, overflowY: 'auto', overflowX: 'hidden', outline: 'none' }
const OVER_ROWS: CSSProperties = { position: 'absolute', inset: `0 14px 0 ${LABEL_WIDTH}px`, overflowY: 'clip', pointerEvents: 'none' }

export const BenchRows = memo(function BenchRows({ bench, onPick, proposals }: { bench: Bench; onPick: (row: Row) => void; proposals: readonly Proposal[] }) {
  const { song, stretch, rows, focused } = bench
  const notes = useBench(state => state.notes)
  const scroller = useRef<HTMLDivElement>(null)
  const rowHeight = notes ? NOTES_ROW_HEIGHT : ROW_HEIGHT
  // eslint-disable-next-line react-hooks/incompatible-library -- it warns of a compiler that is not used here
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 1,
    useFlushSync: false,
    getItemKey: index => rowKey(rows[index]!),
  })
  useEffect(() => virtual.measure(), [virtual, rowHeight])
  const shown = virtual.getVirtualItems()
  const first = shown[0]?.index ?? 0
  const last = shown.at(-1)?.index ?? -1
  const { made, seen } = useMadeRows(rows, first, last)
  // Takes in view are listened to, others when they are scrolled to. Comparing takes costs part of a frame: it waits until scrolling has ended.
  const takes = useMemo(() => {
    const takesOf = (from: number, to: number) => [...new Set(rows.slice(from, to).map(row => row.takeId))].map(id => requireTake(song, id))
    return { seen: takesOf(seen.from, seen.to), inView: takesOf(first, last + 1) }
  }, [rows, seen, first, last, song])
  const settled = useSettled(takes, SETTLE_MILLISECONDS)
  const voices = useVoices(settled.seen)
  const facts = useRowFacts(song.beat, settled.seen, settled.inView, stretch, voices)
  const focusIndex = focused ? rows.findIndex(row => rowKey(row) === rowKey(focused)) : -1
  useEffect(() => {
    if (focusIndex >= 0) virtual.scrollToIndex(focusIndex, { align: 'auto' })
  }, [virtual, focusIndex])
  return (
    <div ref={scroller} style={SCROLLER} tabIndex={-1} data-bench-rows>
      <div style={{ position: 'relative', height: virtual.getTotalSize() }}>
        {rows.slice(made.from, made.to).map((row, i) => (
          <BenchRow
            key={rowKey(row)}
            bench={bench}
            row={row}
            top={(made.from + i) * rowHeight}
            height={rowHeight}
            inView={made.from + i >= first && made.from + i <= last}
            focused={made.from + i === focusIndex}
            facts={facts.get(row.takeId)}
            analysis={voices.get(requireTake(song, row.takeId).assetId)}
            notes={notes}
            onPick={onPick}
          />
        ))}
        <Threads bench={bench} proposals={proposals} rowHeight={rowHeight} first={first} last={last} />
      </div>
    </div>
  )
})

interface BenchRowProps extends Pick<TakeStripProps, 'focused' | 'facts' | 'analysis' | 'notes' | 'onPick'> {
  bench: Bench
  row: Row
  top: number
  height: number
  inView: boolean
}

/** A row out of view stays as it was until it is in view again. */
function restsOutOfView(a: BenchRowProps, b: BenchRowProps): boolean {
  const keys = b.inView ? (Object.keys(b) as (keyof BenchRowProps)[]) : (['inView', 'top', 'height'] as const)
  return keys.every(key => a[key] === b[key])
}

const BenchRow = memo(function BenchRow({ bench: { song, stretch, view }, row, top, height, inView, focused, facts, analysis, notes, onPick }: BenchRowProps) {
  const several = useBench(state => state.sideBySide)
  const take = requireTake(song, row.takeId)
  const layer = requireLayer(song, row.layerId)
  const uses = usesOf(song, row.layerId, take.id, stretch)
  return (
    <div {...setAside(!inView)} style={{ position: 'absolute', left: 0, right: 0, top, height, visibility: inView ? undefined : 'hidden' }}>
      <TakeStrip
        layerId={layer.id}
        tint={layer.tint}
        take={take}
        bright={currentComp(layer).picks.filter(pick => pick.takeId === take.id && overlapFrames(pick, view) > 0)}
        used={uses.length > 0 ? textOfUse(song, uses[0]!) : null}
        ground={pickedIn(song, row.layerId, stretch)?.take ?? null}
        stale={isBounceStale(song, take)}
        beat={song.beat}
        layerName={several ? layer.name : take.layerId === row.layerId ? null : (song.layers.find(entry => entry.id === take.layerId)?.name ?? null)}
        stretch={stretch}
        view={view}
        focused={focused}
        facts={facts}
        analysis={analysis}
        notes={notes}
        onPick={onPick}
      />
    </div>
  )
}, restsOutOfView)

/** The value as it was when it last stayed the same for a while. */
function useSettled<T>(value: T, milliseconds: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), milliseconds)
    return () => clearTimeout(timer)
  }, [value, milliseconds])
  return settled
}

/** Memoised: scrolling changes something only when other rows come into view. */
const Threads = memo(function Threads({
  bench: { song, layer, rows, view },
  proposals,
  rowHeight,
  first,
  last,
}: {
  bench: Bench
  proposals: readonly Proposal[]
  rowHeight: number
  first: number
  last: number
}) {
  const yOf = useCallback(
    (layerId: LayerId) => (takeId: TakeId) => {
      const index = rows.findIndex(row => row.layerId === layerId && row.takeId === takeId)
      return index < 0 ? null : (index + 0.5) * rowHeight
    },
    [rows, rowHeight],
  )
  const ownY = useMemo(() => yOf(layer.id), [yOf, layer.id])
  const layers = useMemo(() => [...new Set(rows.map(row => row.layerId))].map(id => ({ layer: requireLayer(song, id), yOf: yOf(id) })), [rows, song, yOf])
  // In steps of a few rows, and as high whatever they are: a canvas of another size is made anew.
  const from = Math.floor(first / WINDOW_ROWS) * WINDOW_ROWS
  const count = Math.ceil((last - first + 1) / WINDOW_ROWS + 1) * WINDOW_ROWS
  const inView = useMemo(() => ({ top: from * rowHeight, height: count * rowHeight }), [from, count, rowHeight])
  return (
    <div style={OVER_ROWS}>
      {layers.map(entry => (
        <Thread key={entry.layer.id} layer={entry.layer} yOf={entry.yOf} rows={inView} />
      ))}
      <FaintThread song={song} proposals={proposals} yOf={ownY} rows={inView} />
      {layers.map(entry => (
        <SeamHandles key={entry.layer.id} layer={entry.layer} yOf={entry.yOf} view={view} />
      ))}
    </div>
  )
})
