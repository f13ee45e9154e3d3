/** The gain edits of a take as one line of points, which a span carries. */
import type { GainEdit } from '../song/edit-schema'

/** Decibels at a frame of the asset. */
export interface GainPoint {
  frame: number
  decibels: number
}

/** Straight lines of decibels from point to point; 0 dB before the first and after the last. None for no edits. */
export function gainPointsOf(edits: readonly Omit<GainEdit, 'id'>[]): GainPoint[] {
  const corners = edits.flatMap(edit => {
    const fade = fadeOf(edit)
    return [edit.startFrame, edit.startFrame + fade, edit.endFrame - fade, edit.endFrame]
  })
  return [...new Set(corners)].sort((a, b) => a - b).map(frame => ({ frame, decibels: edits.reduce((sum, edit) => sum + decibelsAt(edit, frame), 0) }))
}

function fadeOf({ startFrame, endFrame, fadeFrames }: Omit<GainEdit, 'id'>): number {
  return Math.min(fadeFrames, (endFrame - startFrame) / 2)
}

function decibelsAt(edit: Omit<GainEdit, 'id'>, frame: number): number {
  const inside = Math.min(frame - edit.startFrame, edit.endFrame - frame)
  return inside <= 0 ? 0 : edit.gainDecibels * Math.min(1, inside / fadeOf(edit))
}

/** Reads along such points, from one frame to a later one. */
export function gainAlong(points: readonly GainPoint[]): (frame: number) => number {
  let after = 0
  return frame => {
    while (after < points.length && points[after].frame <= frame) after++
    if (after === 0 || after === points.length) return 0
    const [from, to] = [points[after - 1], points[after]]
    return from.decibels + ((frame - from.frame) / (to.frame - from.frame)) * (to.decibels - from.decibels)
  }
}
