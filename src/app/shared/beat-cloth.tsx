/** The beat as it is arranged: each piece of the file where it sounds, silent ones faint, coloured stretches underlined. */
import { Box, type BoxProps } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { levelDecibels } from '../../core/beat/treatments'
import type { Treatment } from '../../core/song/schema'
import type { FrameRange } from '../../core/song/select'
import { listeningTo } from '../song/listening'
import { useSong } from '../song/song-store'
import { usePeaks } from '../song/sounds'
import { formatDecibels } from './format'
import { Ribbon } from './ribbon'

const NOWHERE: readonly FrameRange[] = []

export function BeatCloth({ view, label, ...box }: { view: FrameRange; label: string } & BoxProps) {
  const { assetId, pieces, treatments } = useSong(song => song.beat)
  const peaks = usePeaks(assetId)
  // A loud beat touches full scale all along; only where its tops were heard to be cut off is that marked.
  const clipped = useQuery({ ...listeningTo(assetId), enabled: false }).data?.level.clipped ?? NOWHERE
  const length = view.endFrame - view.startFrame
  const place = (range: FrameRange) => ({
    left: `${((range.startFrame - view.startFrame) / length) * 100}%`,
    width: `${((range.endFrame - range.startFrame) / length) * 100}%`,
  })
  return (
    <Box position="relative" role="img" aria-label={label} {...box}>
      {pieces.map(({ startFrame, sourceFrame, frames, muted }) => {
        const shown = { startFrame: Math.max(view.startFrame, startFrame), endFrame: Math.min(view.endFrame, startFrame + frames) }
        if (shown.endFrame <= shown.startFrame) return null
        const origin = startFrame - sourceFrame
        return (
          <Box
            key={startFrame}
            aria-hidden
            position="absolute"
            top={0}
            bottom={0}
            {...place(shown)}
            borderLeftWidth={startFrame > 0 && startFrame > view.startFrame ? '1.5px' : 0}
            borderLeftStyle="dashed"
            borderColor="ink.soft"
          >
            <Ribbon peaks={peaks} originFrame={origin} view={shown} clipped={clipped} look="beat" label="" opacity={muted ? 0.15 : 1} />
            {treatments.map(treatment => {
              const range = {
                startFrame: Math.max(shown.startFrame, treatment.sourceStartFrame + origin),
                endFrame: Math.min(shown.endFrame, treatment.sourceEndFrame + origin),
              }
              if (range.endFrame <= range.startFrame) return null
              const inside = (frame: number) => `${((frame - shown.startFrame) / (shown.endFrame - shown.startFrame)) * 100}%`
              return (
                <Box
                  key={treatment.id}
                  position="absolute"
                  bottom={0}
                  left={inside(range.startFrame)}
                  width={`calc(${inside(range.endFrame)} - ${inside(range.startFrame)})`}
                  borderTopWidth="2px"
                  borderTopStyle="dotted"
                  borderColor="brand"
                  fontSize="11px"
                  lineHeight="14px"
                  color="ink"
                  bg="sunken"
                  opacity={0.92}
                  overflow="hidden"
                  whiteSpace="nowrap"
                  px={1}
                >
                  {treatmentTitle(treatment)}
                </Box>
              )
            })}
          </Box>
        )
      })}
    </Box>
  )
}

export function treatmentTitle({ kind, amount }: Pick<Treatment, 'kind' | 'amount'>): string {
  return `${kind} ${kind === 'level' ? formatDecibels(levelDecibels(amount), -Infinity) : `${Math.round(amount * 100)} %`}`
}
