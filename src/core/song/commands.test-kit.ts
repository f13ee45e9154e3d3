/** Every command of a song, given arguments at and past what fits: for laws that hold of all of them. */
import { copyFromComp, describeComp, removeComp, saveComp, switchComp } from '../comp/comps'
import { clearPicks, pickTake } from '../comp/picks'
import { addBounce } from '../comp/bounces'
import { letGo, markSingAgain, putAside } from '../comp/put-aside'
import { joinPicks, moveSeam, nudgePick, setPickGain, setSeam, splitPick } from '../comp/seams'
import { removeEdits, setAsSung, setGainEdit, setNoteEdit, setTimeEdit } from '../edits/commands'
import type { TuneTo } from './tidy-schema'
import { holdPartNote, setMade, setPart, setPartNote } from '../parts/commands'
import { setTogether } from '../align/led-paths'
import { placeElsewhere } from '../stack/place-elsewhere'
import { setWanted, takePlan, usualPlan } from '../stack/wanted'
import { setMend, setTidy, setTune, setTuneOfLine } from '../edits/policies'
import { MEND_KINDS, type EditId } from './edit-schema'
import { parseLyrics } from './lyrics'
import { addLayer, describeLayer, moveLayer, removeLayer } from '../layers/commands'
import { layTemplate } from '../layers/lay-template'
import { setBeatMix, setBusGain, setLayerMix, setVocalGain } from '../mix/commands'
import { addStep, moveStep, recipeAt, removeStep, setRecipe, setStep, type RecipePlace, type StepKind } from '../mix/recipes'
import { alternateSides, placeLayer, setStage, setWidth } from '../mix/stage'
import { moveRidePoint, removeRidePoints, rideOf, setRidePoint, type Ridden } from '../mix/rides'
import { addSpace, removeSpace, setSend, setSpace } from '../mix/spaces'
import { addTreatment, dropBars, muteBars, removeTreatments, repeatBars, replaceBeatFile, shiftPieces, swapBars } from './arrangement'
import { setChord, setKey } from './beat-facts'
import { layLyrics, layPhraseLines, layTappedLines, layWordlessLines } from './lay-lyrics'
import type { AssetId, LineId, PickId, Role, SectionId, Song, TakeId } from './schema'
import { joinLineWithNext, setLineBeats, setLineWords, splitLine } from './lines'
import { copySectionInto, joinSectionWithNext, moveSectionStart, nameFreeBars, renameSection, setGrid, splitSection } from './sections'
import { currentComp, placedLines } from './select'
import { addTakes, binTake, describeTake, emptyBin, makeTake, noteLevels, placeAgain, restoreTake } from './takes'
import { setTitle } from './title'

/** What arguments are drawn from. */
export interface Dice {
  /** One of a list; of an empty one undefined, which no command has to take. */
  of<T>(list: readonly T[]): T
  /** A number at or past the edges of common ranges, or a whole one in between. */
  number(): number
  words(): string
  makeId: () => string
}

const NUMBERS = [-1e9, -999_999, -61, -1, -0.5, 0, 0.5, 1, 2, 3, 12.5, 99, 101, 5_001, 48_001, 1e9, Number.NaN, Infinity]
const WORDS = [
  '',
  ' ',
  'a',
  'la la la\n\nla',
  'n'.repeat(700),
  '[Hook]\none\ntwo',
  '[Verse | bar 999999]\nfive',
  'x\n'.repeat(510),
  `[${'h'.repeat(400)} | 0 bars]\ntwo`,
]

/** @param random Uniform in 0..1. */
export function makeDice(random: () => number, makeId: () => string): Dice {
  const of = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]
  return { of, number: () => (random() < 0.5 ? of(NUMBERS) : Math.round(random() * 40)), words: () => of(WORDS), makeId }
}

type Command = (song: Song, dice: Dice) => Song

const ROLES: readonly Role[] = ['lead', 'double', 'ad-lib']
const layerId = (song: Song, dice: Dice) => dice.of(song.layers).id
const STEP_KINDS: readonly StepKind[] = ['low-cut', 'gate', 'de-esser', 'compressor', 'equaliser', 'saturation', 'air']
const recipePlace = (song: Song, dice: Dice): RecipePlace =>
  dice.of([{ kind: 'mix' }, { kind: 'all' }, { kind: 'role', role: dice.of(ROLES) }, { kind: 'layer', layerId: layerId(song, dice) }])
const ridden = (song: Song, dice: Dice): Ridden => dice.of([{ kind: 'level' }, { kind: 'place' }, { kind: 'send', spaceId: dice.of(song.spaces).id }])
const ridePoint = (song: Song, dice: Dice) => {
  const layer = dice.of(song.layers)
  const of = ridden(song, dice)
  return { place: { layerId: layer.id, of }, frame: dice.of(rideOf(layer, of)).frame }
}
const takeId = (song: Song, dice: Dice) => dice.of(song.takes).id
const editId = (dice: Dice) => dice.of(['e1', 'e2', dice.makeId()]) as EditId
const sectionId = (song: Song, dice: Dice) => dice.of(song.sections).id
const picksOf = (song: Song, id: Song['layers'][number]['id']) => currentComp(song.layers.find(layer => layer.id === id)!).picks
const range = (song: Song, dice: Dice) => {
  const line = dice.of(placedLines(song))
  return { startFrame: line.startFrame, endFrame: line.endFrame + (dice.number() > 50 ? 1e9 : 0) }
}
const withPick = (song: Song, dice: Dice): { layerId: Song['layers'][number]['id']; pickId: PickId } => {
  const layer = dice.of(song.layers.filter(entry => currentComp(entry).picks.length > 0))
  return { layerId: layer.id, pickId: dice.of(picksOf(song, layer.id)).id }
}

export const COMMANDS: Record<string, Command> = {
  setTitle: (s, d) => setTitle(s, d.words()),
  setGrid: (s, d) => setGrid(s, { grid: { ...s.beat.grid, tempoBpm: d.number(), ...(d.number() > 0 ? {} : { beatsPerBar: d.number() }) }, makeId: d.makeId }),
  halveTempo: (s, d) => setGrid(s, { grid: { ...s.beat.grid, tempoBpm: d.of([51, 60, 120, 240]) }, makeId: d.makeId, stays: d.of(['time', 'bars']) }),
  drift: (s, d) => setGrid(s, { grid: { ...s.beat.grid, map: { firstBeat: 0, frames: d.of([[0, 24_000, 49_000, 75_000], [5, 5], [1]]) } }, makeId: d.makeId }),
  setKey: (s, d) => setKey(s, { key: d.of([null, { tonic: 'F', mode: 'minor' }]), tuningCents: d.number() }),
  setChord: (s, d) => setChord(s, { startBeat: d.number(), beatCount: d.number(), chord: d.of([null, { root: 2, quality: 'seventh' }]) }),
  renameSection: (s, d) => renameSection(s, { sectionId: sectionId(s, d), name: d.words() }),
  moveSectionStart: (s, d) => moveSectionStart(s, { sectionId: sectionId(s, d), startBar: d.number(), linesAlong: d.of([true, false]) }),
  nameFreeBars: (s, d) => nameFreeBars(s, { bar: d.number(), name: d.words(), makeId: d.makeId }),
  splitSection: (s, d) => splitSection(s, { sectionId: sectionId(s, d), bar: d.number(), newSectionId: d.makeId() as SectionId }),
  joinSection: (s, d) => joinSectionWithNext(s, { sectionId: sectionId(s, d) }),
  copySection: (s, d) => copySectionInto(s, { fromId: sectionId(s, d), toId: sectionId(s, d), makeId: d.makeId }),
  setLineWords: (s, d) => setLineWords(s, { lineId: d.of(placedLines(s)).line.id, words: d.words() }),
  setLineBeats: (s, d) => setLineBeats(s, { lineId: d.of(placedLines(s)).line.id, startBeat: d.number(), beatCount: d.number() }),
  splitLine: (s, d) => splitLine(s, { lineId: d.of(placedLines(s)).line.id, atWord: d.number(), newLineId: d.makeId() as LineId }),
  joinLine: (s, d) => joinLineWithNext(s, { lineId: d.of(placedLines(s)).line.id }),
  layLyrics: (s, d) => layLyrics(s, { lyrics: parseLyrics(d.words()), firstBar: d.number(), barsALine: d.of([1, 2, 4]), makeId: d.makeId }),
  layWordless: (s, d) => layWordlessLines(s, { sectionIds: [sectionId(s, d)], makeId: d.makeId }),
  layPhrases: (s, d) =>
    layPhraseLines(s, { phrases: [0, 1, 2].map(() => ({ startFrame: 1_000 * d.number(), endFrame: 48_000 * d.number() })), makeId: d.makeId }),
  layTapped: (s, d) => layTappedLines(s, { sectionId: sectionId(s, d), frames: [d.number(), 48_000 * d.number(), 1e6], makeId: d.makeId }),
  repeatBars: (s, d) => repeatBars(s, { startBar: d.of([1, 3, d.number()]), barCount: d.of([1, 2, d.number()]), makeId: d.makeId }),
  dropBars: (s, d) => dropBars(s, { startBar: d.of([1, 3, d.number()]), barCount: d.of([1, 2, d.number()]), makeId: d.makeId }),
  swapBars: (s, d) => swapBars(s, { startBar: d.of([1, 3, d.number()]), barCount: 2, nextBarCount: d.of([1, d.number()]), makeId: d.makeId }),
  muteBars: (s, d) => muteBars(s, { startBar: d.of([1, 3, d.number()]), barCount: d.of([1, d.number()]), muted: d.of([true, false]) }),
  shiftPieces: (s, d) => shiftPieces(s, { shifts: s.beat.pieces.map(() => d.number()) }),
  treat: (s, d) =>
    addTreatment(s, {
      treatment: {
        id: d.makeId(),
        kind: 'far away',
        amount: d.number(),
        sourceStartFrame: d.number(),
        sourceEndFrame: d.number(),
        fadeFrames: d.number(),
        assetId: d.of([null, d.makeId() as AssetId]),
      },
    }),
  untreat: (s, d) => removeTreatments(s, { ids: [d.of(s.beat.treatments).id] }),
  replaceFile: (s, d) =>
    replaceBeatFile(s, {
      assetId: d.makeId() as AssetId,
      fileName: d.words(),
      sourceFrames: d.of([96_000 * 20, d.number()]),
      offsetFrames: d.of([0, d.number()]),
    }),
  layTemplate: (s, d) => layTemplate(s, { makeId: d.makeId }),
  addLayer: (s, d) => addLayer(s, { name: d.words(), role: d.of(ROLES), makeId: d.makeId }),
  describeLayer: (s, d) => describeLayer(s, { layerId: layerId(s, d), name: d.words(), role: d.of([...ROLES, undefined])!, tint: d.of(ROLES) }),
  moveLayer: (s, d) => moveLayer(s, { layerId: layerId(s, d), by: d.number() }),
  removeLayer: (s, d) => removeLayer(s, { layerId: layerId(s, d) }),
  setLayerMix: (s, d) => setLayerMix(s, { layerId: layerId(s, d), gainDecibels: d.number(), pan: d.number(), muted: d.of([true, false]) }),
  setBeatMix: (s, d) => setBeatMix(s, { gainDecibels: d.number(), pan: d.number(), soloed: d.of([true, false]) }),
  setBusGain: (s, d) => setBusGain(s, { role: d.of(ROLES), gainDecibels: d.number() }),
  setVocalGain: (s, d) => setVocalGain(s, { gainDecibels: d.number() }),
  setRecipe: (s, d) => setRecipe(s, { place: recipePlace(s, d), enabled: d.of([true, false]) }),
  addStep: (s, d) => addStep(s, { place: recipePlace(s, d), kind: d.of(STEP_KINDS), makeId: d.makeId }),
  setStep: (s, d) => {
    const place = recipePlace(s, d)
    const step = d.of(recipeAt(s, place).steps)
    const names = Object.keys(step)
    return setStep(s, { place, stepId: step.id, enabled: d.of([true, false]), settings: { [d.of(names)]: d.number() } })
  },
  moveStep: (s, d) => {
    const place = recipePlace(s, d)
    return moveStep(s, { place, stepId: d.of(recipeAt(s, place).steps).id, by: d.number() })
  },
  removeStep: (s, d) => {
    const place = recipePlace(s, d)
    return removeStep(s, { place, stepId: d.of(recipeAt(s, place).steps).id })
  },
  addSpace: (s, d) => addSpace(s, { kind: d.of(['plate', 'room', 'echo']), name: d.words(), makeId: d.makeId }),
  setSpace: (s, d) =>
    setSpace(s, {
      spaceId: d.of(s.spaces).id,
      name: d.words(),
      gainDecibels: d.number(),
      delayBeats: d.of([null, d.number()]),
      settings: { decaySeconds: d.number(), feedbackFraction: d.number() },
    }),
  removeSpace: (s, d) => removeSpace(s, { spaceId: d.of(s.spaces).id }),
  setSend: (s, d) => setSend(s, { layerId: layerId(s, d), spaceId: d.of(s.spaces).id, gainDecibels: d.number() }),
  setRidePoint: (s, d) => setRidePoint(s, { layerId: layerId(s, d), of: ridden(s, d), frame: 480 * d.number(), value: d.number() }),
  moveRidePoint: (s, d) => {
    const { place, frame } = ridePoint(s, d)
    return moveRidePoint(s, { ...place, from: frame, frame: 480 * d.number(), value: d.number() })
  },
  removeRidePoints: (s, d) => {
    const { place, frame } = ridePoint(s, d)
    return removeRidePoints(s, { ...place, frames: [frame] })
  },
  setGainEdit: (s, d) =>
    setGainEdit(s, {
      takeId: takeId(s, d),
      edit: { id: editId(d), startFrame: d.number(), endFrame: d.number(), gainDecibels: d.number(), fadeFrames: d.number() },
    }),
  setNoteEdit: (s, d) =>
    setNoteEdit(s, {
      takeId: takeId(s, d),
      edit: { id: editId(d), startFrame: 960 * d.number(), endFrame: 990 * d.number(), shiftCents: 40 * d.number(), rungCents: d.of([null, 100 * d.number()]) },
    }),
  setMend: (s, d) => setMend(s, { takeId: takeId(s, d), kind: d.of(MEND_KINDS), startFrame: 480 * d.number(), decibels: d.of([undefined, null, d.number()]) }),
  setTidy: (s, d) =>
    setTidy(s, {
      layerIds: [layerId(s, d)],
      tidy: d.of([
        null,
        {
          breathDecibels: d.number(),
          essDecibels: d.number(),
          popDecibels: d.number(),
          restDecibels: d.number(),
          finalDecibels: d.number(),
          mendsClicks: d.of([true, false]),
          fillsNoises: d.of([true, false]),
          roundsClips: d.of([true, false]),
          endsWithLead: d.of([true, false]),
        },
      ]),
    }),
  setPart: (s, d) =>
    setPart(s, {
      layerId: layerId(s, d),
      range: range(s, d),
      notes: [0, 1, 2].map(() => ({ startFrame: 4_800 * d.number(), endFrame: 4_800 * d.number(), midi: 10 * d.number() })),
    }),
  setPartNote: (s, d) =>
    setPartNote(s, { layerId: layerId(s, d), startFrame: s.layers.flatMap(layer => layer.part)[0]?.startFrame ?? 0, midi: d.of([null, d.number()]) }),
  holdPartNote: (s, d) =>
    holdPartNote(s, { layerId: layerId(s, d), startFrame: s.layers.flatMap(layer => layer.part)[0]?.startFrame ?? 0, endFrame: 4_800 * d.number() }),
  setWanted: (s, d) =>
    setWanted(s, {
      layerId: layerId(s, d),
      lineIds: [d.of([...placedLines(s).map(({ line }) => line.id), 'gone' as LineId]), 'gone' as LineId],
      wanted: d.of([true, false]),
    }),
  takePlan: (s, d) => takePlan(s, { wanted: d.of([new Map(), usualPlan(s)]) }),
  placeLayer: (s, d) => placeLayer(s, { layerId: layerId(s, d), mirrored: d.of([true, false]), pan: d.number(), distance: d.number() }),
  setStage: (s, d) => setStage(s, { levelDecibels: d.number(), airDecibels: d.number(), sendDecibels: d.number() }),
  setWidth: (s, d) => setWidth(s, { width: d.of(['narrow', 'even', 'wide']) }),
  alternateSides: (s, d) => alternateSides(s, { layerId: layerId(s, d), pan: d.number() }),
  placeElsewhere: (s, d) =>
    s.takes.length === 0
      ? s
      : placeElsewhere(s, {
          takeId: takeId(s, d),
          layerId: layerId(s, d),
          byFrames: Math.round(48_000 * Math.min(60, Math.max(-60, d.number() || 0))),
          range: range(s, d),
          name: d.words(),
          id: d.makeId() as TakeId,
        }),
  setMade: (s, d) =>
    setMade(s, { layerId: layerId(s, d), made: d.of([null, { sound: d.of(['lead', 'tone'] as const), throatSemitones: d.number(), seed: d.number() }]) }),
  setTogether: (s, d) =>
    setTogether(s, {
      layerIds: [layerId(s, d)],
      together: d.of([null, { tightness: d.number(), apart: ['gone' as LineId], endsTogether: d.of([true, false]) }]),
    }),
  setTuneOfLine: (s, d) =>
    setTuneOfLine(s, {
      layerId: layerId(s, d),
      lineId: d.of([...s.sections.flatMap(section => section.lines.map(line => line.id)), 'gone' as LineId]),
      to: d.of<TuneTo | null>([null, { kind: 'chord' }, { kind: 'part' }, { kind: 'layer', layerId: layerId(s, d) }]),
    }),
  setTune: (s, d) =>
    setTune(s, {
      layerIds: [layerId(s, d), layerId(s, d)],
      tune: d.of([
        null,
        {
          speedMilliseconds: d.number(),
          amount: d.number(),
          toleranceCents: d.number(),
          vibratoKept: d.number(),
          glidesKept: d.number(),
          throatSemitones: d.number(),
          to: d.of<TuneTo>([{ kind: 'key' }, { kind: 'chord' }, { kind: 'layer', layerId: layerId(s, d) }]),
          lines: [],
        },
      ]),
    }),
  setTimeEdit: (s, d) => setTimeEdit(s, { takeId: takeId(s, d), edit: { id: editId(d), frame: 960 * d.number(), laterFrames: 500 * d.number() } }),
  removeEdits: (s, d) => {
    const take = d.of(s.takes)
    return removeEdits(s, { takeId: take.id, ...d.of([{}, { editIds: take.edits.notes.map(({ id }) => id) }]) })
  },
  setAsSung: (s, d) => setAsSung(s, { ...withPick(s, d), asSung: d.of([true, false]) }),
  describeTake: (s, d) => describeTake(s, { takeId: takeId(s, d), name: d.words(), note: d.words(), starred: d.of([true, false]) }),
  placeAgain: (s, d) => placeAgain(s, { takeIds: [takeId(s, d)], roundTripFrames: d.number(), source: 'measured', measuredAt: null }),
  binTake: (s, d) => binTake(s, { takeId: takeId(s, d) }),
  emptyBin,
  restoreTake: (s, d) => restoreTake(s, { takeId: takeId(s, d), layerId: layerId(s, d) }),
  pickTake: (s, d) =>
    pickTake(s, {
      layerId: layerId(s, d),
      takeId: takeId(s, d),
      ...range(s, d),
      gainDecibels: d.of([0, d.number()]),
      insist: d.of([true, false]),
      makeId: d.makeId,
    }),
  clearPicks: (s, d) => clearPicks(s, { layerId: layerId(s, d), ...range(s, d), makeId: d.makeId }),
  splitPick: (s, d) => splitPick(s, { layerId: layerId(s, d), frame: range(s, d).startFrame + 9_000 * d.number(), makeId: d.makeId }),
  moveSeam: (s, d) => moveSeam(s, { ...withPick(s, d), edge: d.of(['start', 'end']), frame: range(s, d).startFrame + d.number() }),
  setSeam: (s, d) => setSeam(s, { ...withPick(s, d), seam: d.of([null, { frames: d.number(), alike: true, byHand: true }]) }),
  joinPicks: (s, d) => joinPicks(s, withPick(s, d)),
  setPickGain: (s, d) => setPickGain(s, { ...withPick(s, d), gainDecibels: d.number(), levelMatched: false }),
  nudgePick: (s, d) => nudgePick(s, { ...withPick(s, d), nudgeFrames: d.of([d.number(), 480 * d.number()]) }),
  saveComp: (s, d) => saveComp(s, { layerId: layerId(s, d), name: d.words(), makeId: d.makeId }),
  switchComp: (s, d) => {
    const layer = d.of(s.layers)
    return switchComp(s, { layerId: layer.id, compId: d.of(layer.comps).id })
  },
  describeComp: (s, d) => {
    const layer = d.of(s.layers)
    return describeComp(s, { layerId: layer.id, compId: d.of(layer.comps).id, name: d.words(), locked: d.of([true, false, false]) })
  },
  removeComp: (s, d) => {
    const layer = d.of(s.layers)
    return removeComp(s, { layerId: layer.id, compId: d.of(layer.comps).id })
  },
  copyFromComp: (s, d) => {
    const layer = d.of(s.layers)
    return copyFromComp(s, { layerId: layer.id, fromCompId: d.of(layer.comps).id, ...range(s, d), makeId: d.makeId })
  },
  addBounce: (s, d) =>
    addBounce(s, {
      layerId: layerId(s, d),
      replaces: null,
      takeId: d.makeId() as TakeId,
      assetId: d.makeId() as AssetId,
      extent: range(s, d),
      picks: picksOf(s, layerId(s, d)),
      edits: [],
      tidy: null,
      tune: null,
      bouncedAt: '2026-01-01T20:00:00.000Z',
    }),
  putAside: (s, d) => putAside(s, { takeId: takeId(s, d), ...range(s, d), note: d.words(), makeId: d.makeId }),
  letGo: (s, d) => letGo(s, { spareId: d.of(s.spares).id }),
  markSingAgain: (s, d) =>
    markSingAgain(s, { layerId: layerId(s, d), lineId: d.of([...placedLines(s).map(({ line }) => line.id), 'gone' as LineId]), note: d.of([null, d.words()]) }),
}

/** Facts that come by themselves, between any two commands. */
export const AMENDMENTS: Record<string, Command> = {
  take: (s, d) => {
    const id = d.makeId()
    const startFrame = 96_000 * Math.floor(Math.abs(d.of([0, 4, 8])))
    return addTakes(s, {
      takes: [
        makeTake({
          id: id as TakeId,
          layerId: layerId(s, d),
          pass: 1,
          assetId: `asset-${id}` as AssetId,
          originFrame: startFrame,
          startFrame,
          endFrame: startFrame + 480_000,
          recordedAt: '2026-01-01T20:00:00.000Z',
        }),
      ],
    })
  },
  level: (s, d) => noteLevels(s, { levels: new Map([[takeId(s, d), { peakDbfs: d.number(), voiceDbfs: d.number(), noiseDbfs: -90, tiltDecibels: 0 }]]) }),
}
