/** What is known of each line of each layer beside the lead: compared one layer after the other while the quilt is open. */
import { useEffect, useMemo, useRef } from 'react'
import { create } from 'zustand'
import { basisOfLine, comparableLines, marksOf, type BesideTheLead, type Mark } from '../../../core/stack/marks'
import type { Layer, LayerId, Song } from '../../../core/song/schema'
import type { PlacedLine } from '../../../core/song/select'
import { runJob } from '../../../workers/run-job'

/** So many at once: what is found is seen soon. */
const MOST_LINES = 4
/** By what was compared, of this session; null for what could not be. */
const useBeside = create<{ known: ReadonlyMap<string, BesideTheLead | null> }>(() => ({ known: new Map() }))

interface Asked {
  layerId: LayerId
  lineId: PlacedLine['line']['id']
  basis: string
}

const patchOf = (layerId: LayerId, lineId: PlacedLine['line']['id']) => `${layerId} ${lineId}`

/** @returns where one asks for the marks of a patch. */
export function useMarks(song: Song, lines: readonly PlacedLine[]): (layer: Layer, line: PlacedLine) => Mark[] {
  const known = useBeside(state => state.known)
  const asked = useMemo(
    () =>
      song.layers.flatMap(layer =>
        comparableLines(song, layer, lines).map((line): Asked => ({ layerId: layer.id, lineId: line.line.id, basis: basisOfLine(song, layer, line) })),
      ),
    [song, lines],
  )
  const isBusy = useRef(false)
  useEffect(() => {
    const left = asked.filter(({ basis }) => !known.has(basis))
    const [first] = left
    if (isBusy.current || !first) return
    const batch = left.filter(({ layerId }) => layerId === first.layerId).slice(0, MOST_LINES)
    isBusy.current = true
    void runJob('besideTheLead', { song, layerId: first.layerId, lineIds: batch.map(({ lineId }) => lineId) }).then(result => {
      const found = batch.map(({ basis }, i) => [basis, result.kind === 'done' ? result.value[i]! : null] as const)
      isBusy.current = false
      useBeside.setState(state => ({ known: new Map([...state.known, ...found]) }))
    })
  }, [song, asked, known])
  return useMemo(() => {
    const beside = new Map(asked.map(({ layerId, lineId, basis }) => [patchOf(layerId, lineId), known.get(basis) ?? null]))
    const marks = new Map(
      song.layers.flatMap(layer =>
        lines.map(line => [patchOf(layer.id, line.line.id), marksOf(song, layer, line, beside.get(patchOf(layer.id, line.line.id)) ?? null)] as const),
      ),
    )
    return (layer: Layer, line: PlacedLine) => marks.get(patchOf(layer.id, line.line.id)) ?? []
  }, [song, lines, asked, known])
}
