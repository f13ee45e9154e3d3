/**
 * What is much to draw: it follows the song a moment later, in slices, and gives way to keys and sound. Not for fields, which must
 * show at once what was typed.
 */
import { memo, useDeferredValue, type ReactNode } from 'react'
import { ShownSong, useSong } from './song-store'

export function FollowLater({ children }: { children: ReactNode }) {
  return <Follower song={useDeferredValue(useSong(song => song))}>{useDeferredValue(children)}</Follower>
}

const Follower = memo(function Follower({ song, children }: { song: Parameters<typeof ShownSong.Provider>[0]['value']; children: ReactNode }) {
  return <ShownSong.Provider value={song}>{children}</ShownSong.Provider>
})
