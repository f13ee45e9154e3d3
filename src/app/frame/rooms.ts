/** The rooms of a song, in the order in which people work. */

export const ROOMS = [
  { path: 'beat', name: 'Beat' },
  { path: 'booth', name: 'Booth' },
  { path: 'comp', name: 'Comp' },
  { path: 'stack', name: 'Stack' },
  { path: 'mix', name: 'Mix' },
  { path: 'deliver', name: 'Deliver' },
] as const

/** Every key and what it does, room by room. */
export const KEYS: { room: string; keys: [string, string][] }[] = [
  {
    room: 'Everywhere',
    keys: [
      ['Space', 'play, stop'],
      ['Home', 'back to the start of the selection'],
      ['L', 'loop the selection'],
      ['K', 'click on, off'],
      ['G', 'sing this line again: records it, a bar before'],
      ['Shift G', 'sing the word at the playhead again'],
      ['1 to 6', 'Beat, Booth, Comp, Stack, Mix, Deliver'],
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['?', 'this list'],
    ],
  },
  {
    room: 'Booth',
    keys: [
      ['R', 'record, stop'],
      ['Esc', 'stop recording'],
      ['H', 'what sounds while recording'],
      ['[ ]', 'less of me, more of me'],
      ['↑ → ↓', 'star, spare or bin the last pass'],
    ],
  },
  {
    room: 'Comp',
    keys: [
      ['↑ ↓', 'step through the takes'],
      ['← →', 'step through the lines'],
      ['P', 'pick this take for the line'],
      ['Enter', 'pick it and go to the next line'],
      ['A', 'hear it alone'],
      ['B', 'hear it with the beat'],
      ['S', 'hear it with the stack'],
      ['C', 'hear what is picked'],
      ['X', 'clear the line'],
    ],
  },
  { room: 'Fields and sliders', keys: [['Enter', 'keep what was typed'], ['Esc', 'put it back'], ['arrows', 'move a slider']] },
]
