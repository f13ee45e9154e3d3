/** Addresses: the Shelf, and a song's rooms. Each room is fetched when it is first entered, or before, while there is nothing else to do. */
import { createBrowserRouter, Navigate, type RouteObject } from 'react-router'
import { ShelfRoom } from './rooms/shelf/shelf-room'

const ROOMS = {
  beat: () => import('./rooms/beat/beat-room').then(({ BeatRoom: Component }) => ({ Component })),
  booth: () => import('./rooms/booth/booth-room').then(({ BoothRoom: Component }) => ({ Component })),
  comp: () => import('./rooms/comp/comp-room').then(({ CompRoom: Component }) => ({ Component })),
  stack: () => import('./rooms/stack/stack-room').then(({ StackRoom: Component }) => ({ Component })),
  tidy: () => import('./rooms/tidy/tidy-room').then(({ TidyRoom: Component }) => ({ Component })),
  mix: () => import('./rooms/mix/mix-room').then(({ MixRoom: Component }) => ({ Component })),
  deliver: () => import('./rooms/deliver/deliver-room').then(({ DeliverRoom: Component }) => ({ Component })),
}
const frame = () => import('./frame/song-frame').then(({ SongFrame: Component }) => ({ Component }))

const children: RouteObject[] = Object.entries(ROOMS).map(([path, lazy]) => ({ path, lazy }))

export const router = createBrowserRouter([
  { path: '/', element: <ShelfRoom /> },
  { path: '/song/:songId', lazy: frame, HydrateFallback: () => null, children: [{ index: true, element: <Navigate to="beat" replace /> }, ...children] },
  { path: '*', element: <Navigate to="/" replace /> },
])

/** Fetches what has not been entered yet, one after the other, so that entering a room waits for nothing. */
export async function fetchRooms(): Promise<void> {
  for (const fetchRoom of [frame, ...Object.values(ROOMS)]) {
    await untilIdle()
    // Offline it is tried again when the room is entered.
    await fetchRoom().catch(() => {})
  }
}

function untilIdle(): Promise<void> {
  return new Promise(resolve => requestIdleCallback(() => resolve()))
}
