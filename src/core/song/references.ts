/** What a schema of shapes cannot say of a song: ids are unique, picks name takes that exist and lie in order, sections do not overlap. */

/** What a recipe lies on. */
interface UncheckedRow {
  recipe: { steps: { id: string }[] }
}

export interface UncheckedSong {
  sections: { id: string; startBar: number; barCount: number; lines: { id: string }[] }[]
  spaces: { id: string; feeds: { spaceId: string } | null }[]
  vocalBus: UncheckedRow
  output: UncheckedRow
  mixes: { id: string; values: { spaces: UncheckedSong['spaces']; layers: { sends: { spaceId: string }[]; throws: { spaceId: string }[] }[] } }[]
  buses: UncheckedRow[]
  layers: (UncheckedRow & {
    id: string
    sends: { spaceId: string }[]
    throws: { id: string; spaceId: string }[]
    colours: { id: string; steps: { id: string }[] }[]
    comps: { id: string; picks: { id: string; takeId: string; startFrame: number; endFrame: number }[] }[]
    currentCompId: string
  })[]
  takes: { id: string; startFrame: number; endFrame: number }[]
  spares: { id: string; takeId: string }[]
}

export interface BrokenReference {
  path: (string | number)[]
  expected: string
}

/** In the order of the document; none if all is well. */
export function findBrokenReferences(song: UncheckedSong): BrokenReference[] {
  const problems: BrokenReference[] = []
  const unique = (entries: readonly { id: string }[], ...path: BrokenReference['path']) => {
    if (new Set(entries.map(entry => entry.id)).size !== entries.length) problems.push({ path, expected: 'unique ids' })
  }
  unique(song.sections, 'sections')
  unique(
    song.sections.flatMap(section => section.lines),
    'sections',
  )
  unique(song.layers, 'layers')
  unique(song.takes, 'takes')
  unique(song.spares, 'spares')
  unique(song.spaces, 'spaces')
  unique(song.mixes, 'mixes')
  song.mixes.forEach(({ values }, m) => {
    const inMix = new Set(values.spaces.map(space => space.id))
    const isWhole = values.layers.every(({ sends, throws }) => [...sends, ...throws].every(({ spaceId }) => inMix.has(spaceId)))
    if (!isWhole || values.spaces.some(({ id }) => feedsItself(values.spaces, id)))
      problems.push({ path: ['mixes', m], expected: 'a mix whose spaces are its own' })
  })
  unique(song.vocalBus.recipe.steps, 'vocalBus', 'recipe')
  unique(song.output.recipe.steps, 'output', 'recipe')
  song.buses.forEach((bus, b) => unique(bus.recipe.steps, 'buses', b, 'recipe'))
  const spaceIds = new Set(song.spaces.map(space => space.id))
  song.spaces.forEach(({ id, feeds }, i) => {
    if (feeds && !spaceIds.has(feeds.spaceId)) problems.push({ path: ['spaces', i, 'feeds'], expected: 'a space of this song' })
    else if (feedsItself(song.spaces, id)) problems.push({ path: ['spaces', i, 'feeds'], expected: 'no way back into itself' })
  })
  const takeIds = new Set(song.takes.map(take => take.id))
  song.sections.forEach((section, i) => {
    const before = song.sections[i - 1]
    if (before && section.startBar < before.startBar + before.barCount) problems.push({ path: ['sections', i], expected: 'sections in order, without overlap' })
  })
  song.takes.forEach((take, i) => {
    if (take.endFrame <= take.startFrame) problems.push({ path: ['takes', i], expected: 'an end after the start' })
  })
  song.spares.forEach((spare, i) => {
    if (!takeIds.has(spare.takeId)) problems.push({ path: ['spares', i], expected: 'a take of this song' })
  })
  song.layers.forEach((layer, l) => {
    unique(layer.comps, 'layers', l, 'comps')
    unique(layer.recipe.steps, 'layers', l, 'recipe')
    unique(
      layer.sends.map(send => ({ id: send.spaceId })),
      'layers',
      l,
      'sends',
    )
    layer.sends.forEach((send, i) => {
      if (!spaceIds.has(send.spaceId)) problems.push({ path: ['layers', l, 'sends', i], expected: 'a space of this song' })
    })
    unique(layer.throws, 'layers', l, 'throws')
    unique(layer.colours, 'layers', l, 'colours')
    layer.colours.forEach((colour, i) => unique(colour.steps, 'layers', l, 'colours', i))
    layer.throws.forEach((thrown, i) => {
      if (!spaceIds.has(thrown.spaceId)) problems.push({ path: ['layers', l, 'throws', i], expected: 'a space of this song' })
    })
    if (!layer.comps.some(comp => comp.id === layer.currentCompId)) problems.push({ path: ['layers', l, 'currentCompId'], expected: 'one of the comps' })
    layer.comps.forEach((comp, c) => {
      comp.picks.forEach((pick, p) => {
        const path = ['layers', l, 'comps', c, 'picks', p]
        if (!takeIds.has(pick.takeId)) problems.push({ path, expected: 'a take of this song' })
        if (pick.endFrame <= pick.startFrame || (p > 0 && pick.startFrame < comp.picks[p - 1].endFrame))
          problems.push({ path, expected: 'picks in order, without overlap' })
      })
    })
  })
  return problems
}

/** Whether what a space answers comes back into it, by whatever way. */
export function feedsItself(spaces: readonly { id: string; feeds: { spaceId: string } | null }[], id: string): boolean {
  let at: string | undefined = id
  for (let steps = 0; steps <= spaces.length && at !== undefined; steps++) {
    at = spaces.find(space => space.id === at)?.feeds?.spaceId
    if (at === id) return true
  }
  return false
}
