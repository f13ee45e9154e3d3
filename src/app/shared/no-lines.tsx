/** A room that works line by line, in a song whose sheet has no lines: they are laid by bars, or by what was sung. */
import { Flex } from '@chakra-ui/react'
import { useState } from 'react'
import { layPhraseLines, layWordlessLines } from '../../core/song/lay-lyrics'
import type { Layer } from '../../core/song/schema'
import { makeId } from '../../storage/database'
import { queryClient } from '../query-client'
import { edit, useSong } from '../song/song-store'
import { analysedTake, sungBy, voiceQuery } from '../song/voices'
import { EmptyState, Pill, PrimaryButton } from './parts'

const BARS_A_LINE = 2

export function NoLines({ layer }: { layer: Layer }) {
  const takes = useSong(song => song.takes)
  const own = takes.filter(take => take.layerId === layer.id && !take.binned)
  const [state, setState] = useState<'idle' | 'listening' | 'none'>('idle')
  const byBars = () =>
    edit('lay lines by bars', song => layWordlessLines(song, { sectionIds: song.sections.map(section => section.id), barsALine: BARS_A_LINE, makeId }))
  const byPhrases = async () => {
    setState('listening')
    await Promise.all(own.map(take => queryClient.ensureQueryData(voiceQuery(take.assetId))))
    const phrases = own.flatMap(take => {
      const analysed = analysedTake(take)
      return analysed ? sungBy(analysed).phrases.filter(phrase => phrase.endFrame > take.startFrame && phrase.startFrame < take.endFrame) : []
    })
    if (phrases.length > 0) edit('lay lines by phrases', song => layPhraseLines(song, { phrases, makeId }))
    setState(phrases.length > 0 ? 'idle' : 'none')
  }
  return (
    <EmptyState
      text={
        state === 'none'
          ? 'No voice was heard in these takes. Choose by bars instead.'
          : 'This song has no lines to choose takes for. They can be laid without words: two bars each, or one for every phrase that was sung. Put words on them whenever you like (W).'
      }
    >
      <Flex gap={2} wrap="wrap" justify="center">
        <PrimaryButton onClick={byBars}>By bars</PrimaryButton>
        <Pill
          size="md"
          disabled={own.length === 0 || state === 'listening'}
          title={own.length === 0 ? 'Nothing is sung on this layer yet' : undefined}
          onClick={() => void byPhrases()}
        >
          {state === 'listening' ? 'Listening …' : 'By the phrases sung'}
        </Pill>
      </Flex>
    </EmptyState>
  )
}
