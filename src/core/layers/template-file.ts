/** A song's template, and templates as files: made, written, read and checked. */
import { makeSong } from '../song/make-song'
import { z } from 'zod'
import { withRecipe, withSize } from '../song/open'
import { readOwnFile, writeOwnFile } from '../song/own-file'
import { SongSchema, type AssetId, type Layer, type Song, type SongId } from '../song/schema'
import { placedLines } from '../song/select'
import { layTemplate } from './lay-template'
import { plainSection } from '../song/planned-lines'
import { BareTemplateSchema, MOST_TEMPLATE_LAYERS, type Template, type TemplateLayer } from './template-schema'

/** What a template says must make a song that can be kept: ids once each, ways into spaces that are there, none that feeds itself. */
const SoundTemplateSchema = BareTemplateSchema.superRefine((template, context) => {
  const names = template.layers.map(layer => layer.name)
  if (new Set(names).size !== names.length) context.addIssue({ code: 'custom', path: ['layers'], message: 'layers of different names' })
  const laid = SongSchema.safeParse(layTemplate(scratchSong(), { template, makeId: counting() }))
  if (!laid.success) for (const { path, message } of laid.error.issues.slice(0, 1)) context.addIssue({ code: 'custom', path, message })
})

/** Templates of version 1 say nothing of a reverb's size, those of version 2 nothing of what the whole mix goes through. */
export const TemplateSchema: z.ZodType<Template> = z.preprocess(template => {
  if (!isFields(template) || !Array.isArray(template.spaces)) return template
  return {
    ...template,
    spaces: template.spaces.map((space: unknown) => (isFields(space) ? withSize(space) : space)),
    output: isFields(template.output) ? withRecipe(template.output) : template.output,
  }
}, SoundTemplateSchema)

function isFields(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

function counting(): () => string {
  let count = 0
  return () => `t${count++}`
}

function scratchSong(): Song {
  return makeSong({ songId: 'song' as SongId, title: 'Song', assetId: 'beat' as AssetId, fileName: '', frames: 48_000, makeId: counting() })
}

/** What of a song goes into a template. Rides, throws, colours, parts and what was sung belong to the song. */
export function templateOf(
  song: Song,
  { name: called, says = '', booth = null, pattern = null }: Pick<Template, 'name'> & Partial<Pick<Template, 'says' | 'booth' | 'pattern'>>,
): Template {
  const { buses, vocalBus, spaces, stage, output, beat } = song
  const roles = new Set(song.layers.map(layer => layer.role))
  const names = namesApart(song.layers.map(layer => layer.name))
  return {
    name: called.trim().slice(0, 120) || 'Template',
    says: says.trim().slice(0, 300),
    layers: song.layers.slice(0, MOST_TEMPLATE_LAYERS).map((layer, i) => ({
      name: names[i],
      role: layer.role,
      tint: layer.tint,
      gainDecibels: layer.gainDecibels,
      pan: layer.pan,
      distance: layer.distance,
      tidy: layer.tidy,
      tune: tuneOf(layer),
      together: layer.together && { tightness: layer.together.tightness, endsTogether: layer.together.endsTogether },
      recipe: layer.recipe,
      sends: layer.sends.map(({ spaceId, gainDecibels: level }) => ({ spaceId, gainDecibels: level })),
      sings: singsIn(song, layer),
    })),
    buses: buses.filter(bus => roles.has(bus.role)),
    vocalBus,
    spaces,
    stage,
    output,
    beat: { gainDecibels: beat.gainDecibels, room: beat.room },
    booth,
    pattern: pattern || null,
  }
}

/** A template's layers are found by their names. */
function namesApart(wanted: readonly string[]): string[] {
  const names: string[] = []
  for (const name of wanted) {
    const base = name.trim() || 'Layer'
    let called = base
    for (let number = 2; names.includes(called); number++) called = `${base.slice(0, 110)} ${number}`
    names.push(called)
  }
  return names
}

/** What another layer sings may not be there. */
function tuneOf({ tune }: Layer): TemplateLayer['tune'] {
  if (!tune) return null
  const { lines: _, to, ...settings } = tune
  return { ...settings, to: { kind: to.kind === 'layer' ? 'key' : to.kind } }
}

/** Sections of which a layer is to sing every line. */
function singsIn(song: Song, layer: Layer): string[] | null {
  const lines = placedLines(song)
  // Before there are words the plan is what is to become of them.
  if (lines.length === 0) return layer.sings
  const wanted = new Set<string>(layer.wanted)
  if (lines.every(({ line }) => wanted.has(line.id))) return null
  const sections = song.sections.filter(section => section.lines.length > 0 && section.lines.every(line => wanted.has(line.id)))
  return [...new Set(sections.map(section => plainSection(section.name)))].slice(0, 50)
}

const KIND = { format: 'plush-layer-template', version: 3 }

/** Human-readable, the same bytes for the same template. Described in docs/templates.md. */
export function writeTemplate(template: Template): string {
  return writeOwnFile(KIND, template)
}

export type ReadTemplate = { ok: true; template: Template } | { ok: false; why: string }

/** @param text Of any file. @returns why not in words. */
export function readTemplate(text: string): ReadTemplate {
  if (text.length > MOST_CHARACTERS) return { ok: false, why: 'it is far larger than a template can be' }
  const read = readOwnFile(text, KIND, TemplateSchema)
  if (read.ok) return { ok: true, template: read.content }
  const whys = { 'other-file': 'it is no template of Plush Layer', newer: 'it is from a later release than this one', damaged: 'it is damaged' }
  return { ok: false, why: read.why === 'damaged' ? `${whys.damaged} (${read.where})` : whys[read.why] }
}

const MOST_CHARACTERS = 2_000_000
