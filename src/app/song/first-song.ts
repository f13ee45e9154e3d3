/** The first song that was begun in this browser, and what of its way is past: other songs have no hints. */
import { z } from 'zod'
import { create } from 'zustand'
import { FIRST_STEPS, type FirstStep } from '../../core/propose/first-song'
import { SongIdSchema, type SongId } from '../../core/song/schema'
import { keepSetting, readSetting } from '../../storage/settings'

const FirstSongSchema = z.strictObject({ songId: SongIdSchema, past: z.array(z.enum(FIRST_STEPS)) })
type FirstSong = z.infer<typeof FirstSongSchema>
const KEY = 'first-song'

export const useFirstSong = create<{ first: FirstSong | null }>(() => ({ first: null }))
const stored = readSetting(KEY, FirstSongSchema).then(
  first => useFirstSong.setState({ first }),
  () => {},
)

/** The first that is begun is the first for good. */
export async function noteFirstSong(songId: SongId): Promise<void> {
  await stored
  if (useFirstSong.getState().first === null) keep({ songId, past: [] })
}

export function passStep(step: FirstStep): void {
  const { first } = useFirstSong.getState()
  if (first && !first.past.includes(step)) keep({ ...first, past: [...first.past, step] })
}

export function passAllSteps(): void {
  const { first } = useFirstSong.getState()
  if (first) keep({ ...first, past: [...FIRST_STEPS] })
}

/** What cannot be kept comes again when the app is opened anew: that is all. */
function keep(first: FirstSong): void {
  useFirstSong.setState({ first })
  void keepSetting(KEY, first).catch(() => {})
}
