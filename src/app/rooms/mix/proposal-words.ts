/** What a first mix proposes, in words: where it goes, and why. */
import { BUS_NAMES } from '../../../core/layers/roles'
import type { Proposed } from '../../../core/propose/first-mix'
import { MOST_FOLLOWED_DECIBELS } from '../../../core/propose/lines-aimed'
import type { Song } from '../../../core/song/schema'

export interface ProposalWords {
  what: string
  why: string
}

export function wordsOf(song: Song, proposed: Proposed): ProposalWords {
  const name = (layerId: string) => song.layers.find(({ id }) => id === layerId)?.name ?? 'a layer that is gone'
  switch (proposed.kind) {
    case 'level': {
      const { overBeatLu, belowLeadLu, restingLines } = proposed.reason
      const stands = `its lines then stand ${overBeatLu.toFixed(1)} LU over the beat where voices live`
      const rests = `; where the beat rests (${restingLines} ${restingLines === 1 ? 'line' : 'lines'}) they follow it by ${MOST_FOLLOWED_DECIBELS} dB`
      return {
        what: `${name(proposed.layerId)} at ${signed(proposed.gainDecibels)} dB`,
        why: belowLeadLu > 0 ? `${belowLeadLu} LU under the lead` : restingLines > 0 ? stands + rests : stands,
      }
    }
    case 'low-cut':
      return {
        what: `${name(proposed.layerId)}: low cut at ${proposed.cutoffHz} Hz`,
        why: `the lowest that it holds lies at ${Math.round(proposed.reason.lowestHz)} Hz; under it there is only rumble`,
      }
    case 'cut':
      return {
        what: `${name(proposed.layerId)}: ${signed(proposed.decibels)} dB at ${hertz(proposed.hz)}`,
        why: `it ${proposed.band === 'boom' ? 'booms' : 'barks'} there, ${proposed.reason.standsOutDecibels.toFixed(0)} dB over what lies beside it`,
      }
    case 'esses':
      return {
        what: `${BUS_NAMES[proposed.role]}: esses from ${proposed.thresholdDecibels} dB on are lowered`,
        why: `they stand ${proposed.reason.overVoiceDecibels.toFixed(0)} dB over the voice’s own heights, which stay as they are`,
      }
    case 'press':
      return {
        what: `${proposed.role === 'all' ? 'All voices' : BUS_NAMES[proposed.role]}: pressed from ${proposed.thresholdDecibels} dB on`,
        why: `loud moments at ${proposed.reason.loudDbfs.toFixed(0)} dB give way by ${proposed.reason.takesDecibels} dB`,
      }
    case 'reverb': {
      const space = song.spaces.find(({ id }) => id === proposed.spaceId)?.name ?? 'the space'
      const { tempoBpm, density } = proposed.reason
      return {
        what: `${space}: ${proposed.decaySeconds} s, after ${Math.round(1_000 * proposed.preDelaySeconds)} ms`,
        why: `at ${Math.round(tempoBpm)} bpm with the lead singing ${Math.round(100 * density)} % of the time`,
      }
    }
    case 'ride':
      return {
        what: `${name(proposed.layerId)} ridden line by line`,
        why: `its lines lie ${proposed.reason.spreadLu.toFixed(1)} LU apart over the beat, then ${proposed.reason.leftLu.toFixed(1)}`,
      }
  }
}

function signed(decibels: number): string {
  return `${decibels < 0 ? '−' : '+'}${Math.abs(decibels).toFixed(1)}`
}

function hertz(hz: number): string {
  return hz >= 1_000 ? `${(hz / 1_000).toFixed(1)} kHz` : `${hz} Hz`
}
