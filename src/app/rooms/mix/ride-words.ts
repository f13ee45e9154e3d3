/** What can be ridden of a voice: its words, and how its picture is drawn. */
import type { Ridden } from '../../../core/mix/rides'
import type { Space } from '../../../core/song/mix-schema'
import { GAIN_RANGE_DECIBELS } from '../../../core/song/schema'
import { formatDecibels, formatPan } from '../../shared/format'

export interface RideLook {
  name: string
  means: string
  /** What the picture shows; typed levels may lie lower. */
  top: number
  bottom: number
  /** Of a key or a drag. */
  step: number
  /** Lines with their values. */
  marks: readonly number[]
  /** Of a typed point. */
  field: { min: number; max: number; unit: string; digits: number }
  format: (value: number) => string
}

const decibels = (value: number) => formatDecibels(value, GAIN_RANGE_DECIBELS.min)
const LEVEL_FIELD = { ...GAIN_RANGE_DECIBELS, unit: 'dB', digits: 1 }

export function lookOf(of: Ridden, spaces: readonly Space[]): RideLook {
  switch (of.kind) {
    case 'level':
      return { name: 'level', means: 'Added to its level', top: 12, bottom: -24, step: 0.5, marks: [0, -12], field: LEVEL_FIELD, format: decibels }
    case 'place':
      return {
        name: 'place',
        means: 'Instead of its place: 1 is right, at the top',
        top: 1,
        bottom: -1,
        step: 0.05,
        marks: [0],
        field: { min: -1, max: 1, unit: '', digits: 2 },
        format: formatPan,
      }
    case 'send': {
      const name = spaces.find(space => space.id === of.spaceId)?.name ?? ''
      return {
        name: `way into ${name}`,
        means: `Instead of what it sends into ${name}`,
        top: 12,
        bottom: -48,
        step: 0.5,
        marks: [0, -24],
        field: LEVEL_FIELD,
        format: decibels,
      }
    }
  }
}
