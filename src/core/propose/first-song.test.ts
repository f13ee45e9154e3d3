import { describe, expect, test } from '@jest/globals'
import type { Song } from '../song/schema'
import { smallSong, withTakes } from '../song/song.test-kit'
import { FIRST_STEPS, nextStep, type FirstStep } from './first-song'

const wordless = (song: Song): Song => ({ ...song, sections: song.sections.map(section => ({ ...section, lines: [] })) })

describe('what comes next in a first song', () => {
  test.each<[string, Song, FirstStep[], FirstStep | null]>([
    ['has neither words nor takes', wordless(smallSong()), [], 'words'],
    ['is to have no words', wordless(smallSong()), ['words'], 'sing'],
    ['has its words', smallSong(), [], 'sing'],
    ['was sung once', withTakes(smallSong(), 'Lead', 1), [], 'sing-again'],
    ['was sung twice', withTakes(smallSong(), 'Lead', 2), [], 'choose'],
    ['was sung twice without words', wordless(withTakes(smallSong(), 'Lead', 2)), [], 'choose'],
    ['has no lead', withTakes(smallSong(), 'Double left', 3), [], 'thicken'],
    ['has only what is in the bin', withTakes(smallSong(), 'Lead', 2, { binned: true }), [], 'sing'],
    ['was chosen from', withTakes(smallSong(), 'Lead', 2), ['choose'], 'thicken'],
    ['has been through all', withTakes(smallSong(), 'Lead', 2), [...FIRST_STEPS], null],
  ])('that %s', (_, song, past, next) => expect(nextStep(song, past)).toBe(next))
})
