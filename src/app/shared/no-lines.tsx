/** A room that works line by line, in a song whose sheet has no lines: they are laid by bars, or by what was sung. */
import { Flex } from '@chakra-ui/react'
import { useState } from 'react'
import { layPhraseLines, layWordlessLines } from '../../core/song/lay-lyrics'
import type { Layer } from '../../core/song/schema'
import { overlapFrames } from '../../core/song/select'
import { makeId } from '../../storage/database'
import { queryClient } from '../query-client'
import { edit, editWith, useSong } from '../song/song-store'
import { analysedTake, sungBy, voiceQuery } from '../song/voices'
import { EmptyState, Pill, PrimaryButton } from './parts'

const BARS_A_LINE = 2
const NOTHING_HEARD = 'No voice was heard in these takes. Choose by bars instead.'
const NO_LINES = `This song has no lines to choose takes for. They can be laid without words: two bars each, or one for every phrase that was
  sung. Put words on them whenever you like (W).`

export function NoLines({ layer }: { layer: Layer }) {
  const isSung = useSong(song => song.takes.some(take => take.layerId === layer.id && !take.binned))
  const [state, setState] = useState<'idle' | 'listening' | 'none'>('idle')
  const byBars = () =>
    edit('lay lines by bars', song => layWordlessLines(song, { sectionIds: song.sections.map(section => section.id), barsALine: BARS_A_LINE, makeId }))
  const byPhrases = async () => {
    setState('listening')
    const laid = await editWith('lay lines by phrases', async song => {
      const takes = song.takes.filter(take => take.layerId === layer.id && !take.binned)
      await Promise.all(takes.map(take => queryClient.ensureQueryData(voiceQuery(take.assetId))))
      const phrases = takes.flatMap(take => {
        const analysed = analysedTake(take)
        return analysed ? sungBy(analysed).phrases.filter(phrase => overlapFrames(phrase, take) > 0) : []
      })
      return { song: layPhraseLines(song, { phrases, makeId }), answer: phrases.length > 0 }
    })
    setState(laid ? 'idle' : 'none')
  }
  return (
    <EmptyState text={state === 'none' ? NOTHING_HEARD : NO_LINES}>
      <Flex gap={2} wrap="wrap" justify="center">
        <PrimaryButton onClick={byBars}>By bars</PrimaryButton>
        <Pill
          size="md"
          disabled={!isSung || state === 'listening'}
          title={!isSung ? 'Nothing is sung on this layer yet' : undefined}
          onClick={() => void byPhrases()}
        >
          {state === 'listening' ? 'Listening …' : 'By the phrases sung'}
        </Pill>
      </Flex>
    </EmptyState>
  )
}
