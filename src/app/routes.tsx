/** Addresses: the Shelf, and a song's rooms. */
import { createBrowserRouter, Navigate } from 'react-router'
import { SongFrame } from './frame/song-frame'
import { BeatRoom } from './rooms/beat/beat-room'
import { BoothRoom } from './rooms/booth/booth-room'
import { CompRoom } from './rooms/comp/comp-room'
import { DeliverRoom } from './rooms/deliver/deliver-room'
import { MixRoom } from './rooms/mix/mix-room'
import { ShelfRoom } from './rooms/shelf/shelf-room'
import { StackRoom } from './rooms/stack/stack-room'

export const router = createBrowserRouter([
  { path: '/', element: <ShelfRoom /> },
  {
    path: '/song/:songId',
    element: <SongFrame />,
    children: [
      { index: true, element: <Navigate to="beat" replace /> },
      { path: 'beat', element: <BeatRoom /> },
      { path: 'booth', element: <BoothRoom /> },
      { path: 'comp', element: <CompRoom /> },
      { path: 'stack', element: <StackRoom /> },
      { path: 'mix', element: <MixRoom /> },
      { path: 'deliver', element: <DeliverRoom /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
])
