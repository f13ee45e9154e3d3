/** Templates: laid, taken from a song, written, read, and refused where they are not one. */
import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { pickTake } from '../comp/picks'
import { setBeatMix } from '../mix/commands'
import { setSpace } from '../mix/spaces'
import { setTidy } from '../edits/policies'
import { USUAL_TIDY } from '../edits/tidy'
import { makeSong } from '../song/make-song'
import { layLyrics, layWordlessLines } from '../song/lay-lyrics'
import { parseLyrics } from '../song/lyrics'
import { plainSection } from '../song/planned-lines'
import { SongSchema, type AssetId, type Song, type SongId } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { layTemplate } from './lay-template'
import { FULL_STACK, OUR_TEMPLATES } from './our-templates'
import { setWanted, takePlan } from '../stack/wanted'
import { readTemplate, TemplateSchema, templateOf, writeTemplate } from './template-file'

const fresh = (): Song => makeSong({ songId: 'new' as SongId, title: 'New', assetId: 'beat' as AssetId, fileName: 'b.wav', frames: 480_000, makeId })
const withoutIds = (song: Song) => song.layers.map(({ id: _, comps: __, currentCompId: ___, ...layer }) => layer)

describe('each of ours', () => {
  test.each(OUR_TEMPLATES.map(template => [template.name, template] as const))(
    '%s makes a song that can be kept, and comes back as the file it is written to',
    (_, template) => {
      expect(TemplateSchema.parse(template)).toEqual(template)
      const song = layTemplate(fresh(), { template, makeId })
      expect(SongSchema.safeParse(song).error).toBeUndefined()
      expect(song.layers.map(layer => layer.name)).toEqual(template.layers.map(layer => layer.name))
      expect(readTemplate(writeTemplate(template))).toEqual({ ok: true, template })
      // Of a pair one stands as far left as the other right.
      expect(song.layers.reduce((sum, layer) => sum + layer.pan, 0)).toBeCloseTo(0, 9)
    },
  )
})

describe('a song’s own', () => {
  /** A song that was worked on: levels, a space, a policy, takes and picks. */
  const worked = (): Song => {
    let song = withTakes(smallSong(), 'Lead', 2)
    const lead = layerOf(song, 'Lead')
    song = pickTake(song, { layerId: lead, takeId: song.takes[0].id, ...lineRange(0), makeId })
    song = setTidy(song, { layerIds: [lead], tidy: USUAL_TIDY.lead })
    song = setBeatMix(song, { gainDecibels: -7 })
    return setSpace(song, { spaceId: song.spaces[2].id, name: 'My echo', gainDecibels: -3 })
  }

  test('has all but what was sung, and lays the same over a new beat', () => {
    const song = worked()
    const booth = { surround: 'lead', guide: 'off', click: 'never', countInBars: 2, preRollBars: 1 } as const
    const template = templateOf(song, { name: '  Mine ', says: 'for night songs', booth, pattern: '{artist} {title} {part}' })
    expect(template).toMatchObject({ name: 'Mine', booth, pattern: '{artist} {title} {part}' })
    const text = writeTemplate(template)
    expect(text).not.toContain('asset-1')
    const read = readTemplate(text)
    expect(read).toEqual({ ok: true, template })
    const next = layTemplate(fresh(), { template, makeId })
    expect(withoutIds(next)).toEqual(withoutIds({ ...song, layers: song.layers.map(layer => ({ ...layer, wanted: [] })) }))
    expect(next.spaces).toEqual(song.spaces)
    expect(next.beat.gainDecibels).toBe(-7)
    expect(next.buses).toEqual(song.buses)
    expect(next.takes).toEqual([])
  })

  test('remembers which sections a layer is to sing, and finds them by name in another song', () => {
    const song = worked()
    const hook = song.sections.find(section => section.name === 'Hook')!
    const planned = { ...song, layers: song.layers.map(layer => (layer.name === 'High 1' ? { ...layer, wanted: hook.lines.map(line => line.id) } : layer)) }
    const template = templateOf(planned, { name: 'Planned' })
    expect(template.layers.find(layer => layer.name === 'High 1')!.sings).toEqual(['hook'])
    const other = smallSong()
    const renamed = { ...other, sections: other.sections.map(section => (section.name === 'Hook' ? { ...section, name: 'HOOK 3' } : section)) }
    const laid = layTemplate(renamed, { template, makeId })
    const lines = renamed.sections.find(section => section.name === 'HOOK 3')!.lines.map(line => line.id)
    expect(requireLayer(laid, layerOf(laid, 'High 1')).wanted).toEqual(lines)
    expect(requireLayer(laid, layerOf(laid, 'Lead')).wanted).toEqual([])
  })

  test('plans lines that are laid after it, and only those; a plan that was cleared plans no more', () => {
    const planned = {
      ...FULL_STACK,
      layers: FULL_STACK.layers.map(layer => ({ ...layer, sings: layer.name === 'Lead' ? null : layer.role === 'double' ? ['hook'] : [] })),
    }
    const laid = layTemplate(fresh(), { template: planned, makeId })
    const wanted = (song: Song, name: string) => {
      const words = new Map(song.sections.flatMap(({ lines }) => lines.map(line => [line.id as string, line.words])))
      return requireLayer(song, layerOf(song, name)).wanted.map(id => words.get(id))
    }
    const lay = (song: Song, text: string) => layLyrics(song, { lyrics: parseLyrics(text), firstBar: 1, makeId })
    const first = lay(laid, '[Verse]\none\ntwo\n[Hook]\nthree')
    expect(wanted(first, 'Lead')).toEqual(['one', 'two', 'three'])
    expect(wanted(first, 'Double left')).toEqual(['three'])
    expect(wanted(first, 'High 1')).toEqual([])
    // Someone decided otherwise of a line that is there; one that comes is planned.
    const double = layerOf(first, 'Double left')
    const without = setWanted(first, { layerId: double, lineIds: requireLayer(first, double).wanted, wanted: false })
    const more = lay(without, '[Verse]\none\ntwo\n[Hook]\nthree\nfour')
    expect(wanted(more, 'Double left')).toEqual(['four'])
    expect(wanted(lay(takePlan(more, { wanted: new Map() }), '[Verse]\none\ntwo\n[Hook]\nthree\nfour\nfive'), 'Lead')).toEqual([])
    // Without any words the plan is still what the template says.
    expect(templateOf(laid, planned).layers).toEqual(planned.layers)
    const wordless = layWordlessLines(laid, { sectionIds: laid.sections.map(({ id }) => id), makeId })
    expect(wanted(wordless, 'Lead')).toHaveLength(wordless.sections.flatMap(({ lines }) => lines).length)
    expect(SongSchema.safeParse(more).success).toBe(true)
  })

  test('of earlier releases, whose reverbs had no size and whose whole mix no recipe, is read as it sounded', () => {
    const json = JSON.parse(writeTemplate(FULL_STACK)) as { formatVersion: number; spaces: Record<string, unknown>[]; output: { ceilingDbfs: number } }
    const before = {
      ...json,
      formatVersion: 1,
      output: { ceilingDbfs: json.output.ceilingDbfs },
      spaces: json.spaces.map(({ sizeFraction: _, ...space }) => space),
    }
    expect(readTemplate(JSON.stringify(before))).toEqual({ ok: true, template: FULL_STACK })
  })

  test('has layers of different names, however they were called', () => {
    const song = worked()
    const alike = { ...song, layers: song.layers.map(layer => ({ ...layer, name: ' ' })) }
    const { layers } = templateOf(alike, { name: '' })
    expect(new Set(layers.map(layer => layer.name)).size).toBe(song.layers.length)
    expect(TemplateSchema.safeParse(templateOf(alike, { name: '' })).success).toBe(true)
  })
})

describe('laid over a song that has something', () => {
  test('what was sung stays as it is, and so does what was changed by hand', () => {
    const taken = withTakes(smallSong(), 'Lead', 1)
    const song = setBeatMix(pickTake(taken, { layerId: layerOf(taken, 'Lead'), takeId: taken.takes[0].id, ...lineRange(0), makeId }), { gainDecibels: -9 })
    const choir = OUR_TEMPLATES.find(({ name }) => name === 'Choir of one')!
    const laid = layTemplate(song, { template: { ...choir, beat: { ...choir.beat, gainDecibels: 0 } }, makeId })
    const lead = requireLayer(song, layerOf(song, 'Lead'))
    expect(requireLayer(laid, lead.id)).toEqual(lead)
    expect(currentComp(requireLayer(laid, lead.id)).picks).toHaveLength(1)
    expect(laid.beat.gainDecibels).toBe(-9)
    expect(laid.layers).toHaveLength(choir.layers.length)
    // What the new layers go into is there.
    expect(laid.spaces.map(({ name }) => name)).toEqual(['Plate', 'Room', 'Echo', 'Hall'])
    expect(SongSchema.safeParse(laid).success).toBe(true)
  })

  test('twice is once, and one after the other is the last', () => {
    const rap = OUR_TEMPLATES.find(({ name }) => name === 'Rap with ad-libs')!
    const once = layTemplate(fresh(), { template: rap, makeId })
    expect(withoutIds(layTemplate(once, { template: rap, makeId }))).toEqual(withoutIds(once))
    const other = layTemplate(layTemplate(fresh(), { template: FULL_STACK, makeId }), { template: rap, makeId })
    expect(withoutIds(other)).toEqual(withoutIds(once))
  })
})

describe('what is no template is refused in words', () => {
  const text = writeTemplate(FULL_STACK)
  const changed = (change: (json: Record<string, never>) => void) => {
    const json = JSON.parse(text) as Record<string, never>
    change(json)
    return readTemplate(JSON.stringify(json))
  }

  test.each<[string, string, RegExp]>([
    ['a letter', 'dear singer', /no template/],
    ['another JSON', '{"format": "plush-layer-recipe", "formatVersion": 1}', /no template/],
    ['one of a later release', text.replace('"formatVersion": 3', '"formatVersion": 4'), /later release/],
    ['far too large', ' '.repeat(3_000_000), /larger/],
  ])('%s', (_, given, why) => expect(readTemplate(given)).toEqual({ ok: false, why: expect.stringMatching(why) }))

  test('a send into no space, two layers of a name, a space that feeds itself, a level past its range, a field too many', () => {
    const refused = { ok: false, why: expect.stringMatching(/^it is damaged \(/) }
    expect(changed(json => ((json.layers as { sends: { spaceId: string }[] }[])[0].sends[0].spaceId = 'nowhere'))).toMatchObject({ ok: true })
    expect(changed(json => ((json.layers as { name: string }[])[1].name = 'Lead'))).toEqual(refused)
    expect(changed(json => ((json.spaces as { feeds: unknown }[])[0].feeds = { spaceId: 'plate', gainDecibels: 0 }))).toEqual(refused)
    expect(changed(json => ((json.layers as { gainDecibels: number }[])[0].gainDecibels = 900))).toEqual(refused)
    expect(changed(json => ((json as Record<string, unknown>).more = 1))).toEqual(refused)
    expect(changed(json => ((json.spaces as unknown[])[1] = (json.spaces as unknown[])[0]!))).toEqual(refused)
  })

  test('anything else that is done to one: it is read as a whole, or refused, and never throws', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: text.length - 1 }), fc.integer({ min: 0, max: 60 }), fc.string({ maxLength: 12 }), (at, length, put) => {
        const read = readTemplate(text.slice(0, at) + put + text.slice(at + length))
        if (read.ok) expect(SongSchema.safeParse(layTemplate(fresh(), { template: read.template, makeId })).success).toBe(true)
        else expect(read.why).toMatch(/[a-z]{4}/)
      }),
      { numRuns: 300 },
    )
  })
})

test.each([
  ['Hook 2', 'hook'],
  ['VERSE', 'verse'],
  ['12', '12'],
  ['Pre-hook 1', 'pre-hook'],
])('sections are alike but for their number: "%s"', (name, plain) => expect(plainSection(name)).toBe(plain))
