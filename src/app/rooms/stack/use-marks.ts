/** What is known of each line of each layer beside the lead: compared one layer after the other while the quilt is open, and remembered by what was compared. */
import { useEffect, useMemo, useReducer, useRef } from 'react'
import { basisOfLine, comparableLines, marksOf, type BesideTheLead, type Mark } from '../../../core/stack/marks'
import type { Layer, LayerId, Song } from '../../../core/song/schema'
import type { PlacedLine } from '../../../core/song/select'
import { runJob } from '../../../workers/run-job'

/** So many at once: what is found is seen soon. */
const MOST_LINES = 4
/** Of this session; of another song other sounds are compared. */
const known = new Map<string, BesideTheLead>()
const failed = new Set<string>()

interface Asked {
  layerId: LayerId
  lineId: PlacedLine['line']['id']
  basis: string
}

/** @returns where one asks for the marks of a patch. */
export function useMarks(song: Song, lines: readonly PlacedLine[]): (layer: Layer, line: PlacedLine) => Mark[] {
  const [round, goOn] = useReducer((times: number) => times + 1, 0)
  const asked = useMemo(
    () =>
      song.layers.flatMap(layer =>
        comparableLines(song, layer, lines).map((line): Asked => ({ layerId: layer.id, lineId: line.line.id, basis: basisOfLine(song, layer, line) })),
      ),
    [song, lines],
  )
  const left = asked.filter(({ basis }) => !known.has(basis) && !failed.has(basis))
  const isBusy = useRef(false)
  useEffect(() => {
    const [first] = left
    if (isBusy.current || !first) return
    const batch = left.filter(({ layerId }) => layerId === first.layerId).slice(0, MOST_LINES)
    isBusy.current = true
    void runJob('besideTheLead', { song, layerId: first.layerId, lineIds: batch.map(({ lineId }) => lineId) }).then(result => {
      batch.forEach(({ basis }, i) => (result.kind === 'done' ? known.set(basis, result.value[i]!) : failed.add(basis)))
      isBusy.current = false
      goOn()
    })
  }, [song, left, round])
  return useMemo(() => {
    const byPatch = new Map(asked.map(({ layerId, lineId, basis }) => [`${layerId} ${lineId}`, known.get(basis) ?? null]))
    return (layer: Layer, line: PlacedLine) => marksOf(song, layer, line, byPatch.get(`${layer.id} ${line.line.id}`) ?? null)
    // What is known grows by rounds.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [song, asked, round])
}
