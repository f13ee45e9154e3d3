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
      ['Q, Shift Q', 'to the next card, the last'],
      ['W', 'all words'],
      ['D', 'this line: words, start, length, split, join'],
      ['1 to 6', 'Beat, Booth, Comp, Stack, Mix, Deliver'],
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['U', 'all steps, to go back to any'],
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
      ['← →', 'step through lines, pieces, words'],
      [', .', 'choose more at once, or less: song, section, line, piece, word'],
      ['P', 'pick this take'],
      ['Enter', 'pick it and go on'],
      ['A', 'play it alone'],
      ['C', 'play it in context'],
      ['B  S', 'hear with the beat, with the stack'],
      ['V', 'begin a bar before'],
      ['E', 'compare at equal loudness'],
      ['T', 'cut here, in a quiet place'],
      ['Shift T', 'cut exactly here'],
      ['[ ]', 'step through the seams'],
      ['J', 'play the seam'],
      ['N, Shift N', 'seam to the next quiet spot, the last'],
      ['Shift ← →', 'move the seam by 10 ms'],
      ['- =', 'pick 5 ms earlier, later'],
      ['0', 'pick as sung'],
      ['I', 'show notes'],
      ['F', 'only free takes'],
      ['Y', 'layers of this role side by side'],
      ['M', 'mark the line to sing again'],
      ['O', 'what is put aside'],
      ['X', 'clear it'],
      ['Shift ↑ ↓', 'zoom in, out'],
      ['Esc', 'back to what is picked'],
    ],
  },
  {
    room: 'Mix',
    keys: [
      ['C, S, R, O', 'recipes, spaces, rides, output'],
      ['H', 'the chosen space alone, or all again'],
      ['← → ↑ ↓', 'move a point of a ride'],
      ['Delete', 'take it away'],
    ],
  },
  {
    room: 'Fields and sliders',
    keys: [
      ['Enter', 'keep what was typed or chosen, and leave it'],
      ['Esc', 'put it back'],
      ['arrows', 'move a slider'],
    ],
  },
]
