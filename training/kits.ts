/** Drum kits by kind of beat: tempo range, metre and patterns. x = struck, o = softly, . = not. */
export interface DrumLine {
  role: 'kick' | 'snare' | 'hat' | 'extra'
  /** General MIDI drum notes to choose from. */
  pitches: number[]
  patterns: string[]
  velocity: number
  pitch?: number
}

export interface Kit {
  name: string
  tempo: [number, number]
  meter: [number, number]
  beatsPerBar: number
  /** Steps in a bar. */
  steps: number
  swing: number
  swingEighths?: boolean
  minor: number
  rolls?: boolean
  drumless?: boolean
  /** How often it is composed; 1 if not given. */
  weight?: number
  highBass?: boolean
  lines: (Omit<DrumLine, 'pitch'> & { pitch: number })[]
}

const line = (role: DrumLine['role'], pitches: number[], velocity: number, ...patterns: string[]) => ({ role, pitches, pitch: pitches[0], velocity, patterns })
const hats16 = ['x.x.x.x.x.x.x.x.', 'xxxxxxxxxxxxxxxx', 'x.xxx.xxx.xxx.xx', 'x.x.x.xxx.x.x.x.', 'x.o.x.o.x.o.x.o.', 'xoxoxoxoxoxoxoxo']
const four = { meter: [4, 4] as [number, number], beatsPerBar: 4, steps: 16 }

export const KITS: Kit[] = [
  {
    name: 'trap',
    ...four,
    tempo: [122, 172],
    swing: 0.05,
    minor: 0.85,
    rolls: true,
    lines: [
      line(
        'kick',
        [35, 36],
        115,
        'x.........x.....',
        'x.....x...x.....',
        'x..x......x.....',
        'x.......x.x.....',
        'x.....x.....x...',
        'x............x..',
        'x..x..x.........',
        'x.........x..x..',
      ),
      line('snare', [38, 40, 39], 112, '........x.......'),
      line('hat', [42], 80, 'x.x.x.x.x.x.x.x.', 'x.x.x.x.x.x.x.x.', 'x...x...x...x...', 'x.x.xxx.x.x.x.xx', 'xxxxxxxxxxxxxxxx'),
      line('extra', [46, 37, 75], 80, '..............x.', '......x.........', '...x.......x....'),
    ],
  },
  {
    name: 'drill',
    ...four,
    tempo: [134, 148],
    swing: 0.05,
    minor: 0.9,
    rolls: true,
    lines: [
      line('kick', [36, 35], 115, 'x.....x.........', 'x.....x...x.....', 'x..x......x.....', 'x.........x..x..'),
      line('snare', [38, 40, 39], 112, '........x.......', '........x......o', '......x.......x.', '........x.....x.'),
      line('hat', [42], 78, 'x..x..x.x..x..x.', 'x..x..x...x..x..', 'x..x..x..x..x.x.'),
      line('extra', [37, 75, 76], 80, '...x.........x..', '.....x.....x....'),
    ],
  },
  {
    name: 'boombap',
    ...four,
    tempo: [78, 102],
    swing: 0.7,
    minor: 0.75,
    lines: [
      line('kick', [36, 35], 112, 'x.........x.....', 'x......x..x.....', 'x.x.......x.....', 'x..x......xx....', 'x.....x.x.......', 'x.......x.x.....'),
      line('snare', [38, 40], 112, '....x.......x...', '....x..o....x...', '....x.......x..o'),
      line('hat', [42, 44], 75, ...hats16),
      line('extra', [46, 54], 70, '......x.........', '..............x.'),
    ],
  },
  {
    name: 'lofi',
    ...four,
    tempo: [64, 92],
    swing: 0.7,
    minor: 0.5,
    lines: [
      line('kick', [36, 35], 100, 'x.........x.....', 'x......x..x.....', 'x.........xx....', 'x.x.......x.....'),
      line('snare', [38, 37, 40], 100, '....x.......x...', '....x.......x..o'),
      line('hat', [42, 44, 82], 62, ...hats16),
      line('extra', [54, 46], 60, '......x.......x.'),
    ],
  },
  {
    name: 'rnb',
    ...four,
    tempo: [58, 100],
    swing: 0.4,
    minor: 0.6,
    rolls: true,
    lines: [
      line('kick', [36, 35], 108, 'x.........x.....', 'x..x..x...x.....', 'x......x..x..x..', 'x.....x.........', 'x..x......x.....'),
      line('snare', [39, 38, 37, 40], 105, '....x.......x...', '....x.......x...', '....x.......x.o.'),
      line('hat', [42, 44, 70], 72, ...hats16),
      line('extra', [46, 75], 72, '..x...x...x...x.', '...x..x.........'),
    ],
  },
  {
    name: 'ballad',
    ...four,
    tempo: [56, 84],
    swing: 0.1,
    minor: 0.4,
    lines: [
      line('kick', [36, 35], 100, 'x.......x.......', 'x.........x.....', 'x.......x.x.....', 'x......xx.......'),
      line('snare', [38, 37, 40], 100, '....x.......x...'),
      line('hat', [42, 51, 44], 62, 'x.x.x.x.x.x.x.x.', 'x...x...x...x...', 'xoxoxoxoxoxoxoxo'),
      line('extra', [54, 82], 60, '..x...x...x...x.'),
    ],
  },
  {
    name: 'pop',
    ...four,
    tempo: [84, 132],
    swing: 0.1,
    minor: 0.45,
    lines: [
      line('kick', [36, 35], 110, 'x.......x.......', 'x.......x.x.....', 'x..x....x.......', 'x.....x.x.......', 'x...x...x...x...', 'x.x.....x.x.....'),
      line('snare', [38, 40, 39], 110, '....x.......x...'),
      line('hat', [42, 46, 51], 76, ...hats16),
      line('extra', [54, 82, 39], 70, '....x.......x...', 'xxxxxxxxxxxxxxxx', '..x...x...x...x.'),
    ],
  },
  {
    name: 'rock',
    ...four,
    tempo: [88, 168],
    swing: 0.05,
    minor: 0.5,
    highBass: false,
    lines: [
      line('kick', [36, 35], 112, 'x.......x.......', 'x.......x.x.....', 'x.x.....x.x.....', 'x..x....x..x....'),
      line('snare', [38, 40], 115, '....x.......x...'),
      line('hat', [42, 46, 51], 85, 'x.x.x.x.x.x.x.x.', 'x...x...x...x...'),
      line('extra', [49], 90, 'x...............'),
    ],
  },
  {
    name: 'dance',
    ...four,
    tempo: [112, 136],
    swing: 0.1,
    minor: 0.65,
    lines: [
      line('kick', [36, 35], 118, 'x...x...x...x...'),
      line('snare', [39, 38, 40], 100, '....x.......x...', '....x.......x...', '................'),
      line('hat', [42, 46], 80, '..x...x...x...x.', 'x.x.x.x.x.x.x.x.', 'xxxxxxxxxxxxxxxx', '..x...x...x...xx'),
      line('extra', [70, 82, 54, 63], 70, 'xxxxxxxxxxxxxxxx', '...x..x...x..x..'),
    ],
  },
  {
    name: 'reggaeton',
    ...four,
    tempo: [84, 106],
    swing: 0.02,
    minor: 0.7,
    lines: [
      line('kick', [36, 35], 115, 'x...x...x...x...', 'x.......x.......'),
      line('snare', [38, 39, 40, 37], 108, '...x..x....x..x.'),
      line('hat', [42, 70, 82], 70, 'x.x.x.x.x.x.x.x.', 'xxxxxxxxxxxxxxxx', 'x...x...x...x...'),
      line('extra', [63, 64, 75], 80, '..x...x...x...x.', 'x..x..x...x.x...'),
    ],
  },
  {
    name: 'afro',
    ...four,
    tempo: [94, 124],
    swing: 0.1,
    minor: 0.6,
    lines: [
      line('kick', [36, 35], 108, 'x.....x...x.....', 'x..x..x.........', 'x...x...x...x...', 'x......x..x.....'),
      line('snare', [37, 39, 38], 98, '...x..x...x.x...', '......x.....x...', '...x..x....x..x.', '....x..x....x...'),
      line('hat', [70, 82, 42], 70, 'xxxxxxxxxxxxxxxx', 'x.xxx.xxx.xxx.xx', 'x.x.x.x.x.x.x.x.'),
      line('extra', [62, 63, 64, 56, 76], 85, 'x..x..x...x.x...', '..xx....x.xx....', 'x..x...x..x.x...'),
    ],
  },
  {
    name: 'dnb',
    ...four,
    weight: 1.6,
    tempo: [158, 180],
    swing: 0.02,
    minor: 0.8,
    lines: [
      line('kick', [36, 35], 115, 'x.........x.....', 'x.........x.....', 'x.x.......x.....', 'x.........x..x..', 'x.....x...x.....'),
      line('snare', [38, 40], 115, '....x.......x...', '....x.......x...', '....x.......x..o', '....x..o.o..x...', '....x..x.x..x...'),
      line('hat', [42, 46, 51], 78, 'x.x.x.x.x.x.x.x.', 'x.x.x.x.x.x.x.x.', 'xxxxxxxxxxxxxxxx', 'x...x...x...x...', '..x...x...x...x.'),
      line('extra', [70, 54, 51], 66, 'xxxxxxxxxxxxxxxx', 'x.x.x.x.x.x.x.x.', 'x...............'),
    ],
  },
  {
    name: 'offbeat',
    ...four,
    tempo: [64, 96],
    swing: 0.2,
    minor: 0.5,
    lines: [
      line('kick', [36, 35], 108, '........x.......', 'x.......x.......', '....x.......x...'),
      line('snare', [37, 38], 100, '........x.......', '....x.......x...'),
      line('hat', [42], 72, 'x.x.x.x.x.x.x.x.', '..x...x...x...x.'),
      line('extra', [54], 66, '..x...x...x...x.'),
    ],
  },
  {
    name: 'waltz',
    meter: [3, 4],
    beatsPerBar: 3,
    steps: 12,
    tempo: [78, 168],
    swing: 0.1,
    minor: 0.45,
    lines: [
      line('kick', [36, 35], 108, 'x...........', 'x.........x.', 'x.....x.....'),
      line('snare', [38, 37, 40, 39], 96, '....x...x...', '........x...', '....x.......', '....o...x...'),
      line('hat', [42, 51, 44], 74, 'x.x.x.x.x.x.', 'x...x...x...', 'xxxxxxxxxxxx'),
      line('extra', [54, 46], 70, '....x...x...', '..........x.'),
    ],
  },
  {
    name: 'waltz',
    meter: [3, 4],
    beatsPerBar: 3,
    steps: 12,
    tempo: [84, 150],
    swing: 0.05,
    minor: 0.6,
    lines: [
      line('kick', [36, 35], 110, 'x.....x.....', 'x...........', 'x..x......x.'),
      line('snare', [38, 40, 39], 104, '........x...', '....x...x...'),
      line('hat', [42, 70], 74, 'x.x.x.x.x.x.', 'xxxxxxxxxxxx'),
    ],
  },
  {
    name: 'sixeight',
    weight: 1.6,
    meter: [6, 8],
    beatsPerBar: 2,
    steps: 6,
    tempo: [44, 84],
    swing: 0,
    minor: 0.5,
    lines: [
      line('kick', [36, 35], 108, 'x.....', 'x....x', 'x.x...'),
      line('snare', [38, 37, 40], 104, '...x..', '...x..', '...x.o'),
      line('hat', [42, 51, 44, 82], 74, 'xxxxxx', 'xxxxxx', 'x.xx.x', 'xoxxox'),
      line('extra', [54], 66, '...x..'),
    ],
  },
  {
    name: 'twelveeight',
    weight: 1.6,
    meter: [12, 8],
    beatsPerBar: 4,
    steps: 12,
    tempo: [52, 122],
    swing: 0,
    minor: 0.45,
    lines: [
      line('kick', [36, 35], 108, 'x.....x.....', 'x....xx.....', 'x..x..x..x..', 'x....x......'),
      line('snare', [38, 40, 39], 106, '...x.....x..', '...x.....x..', '...x.....x.o'),
      line('hat', [42, 51, 70], 76, 'xxxxxxxxxxxx', 'x.xx.xx.xx.x', 'xoxxoxxoxxox', 'x..x..x..x..'),
      line('extra', [54, 46, 64], 70, '...x.....x..', '..x..x..x..x'),
    ],
  },
  {
    name: 'twelveeight-half',
    meter: [12, 8],
    beatsPerBar: 4,
    steps: 12,
    tempo: [92, 130],
    swing: 0,
    minor: 0.7,
    lines: [
      line('kick', [36, 35], 112, 'x..x..x..x..', 'x....x......', 'x....x...x..'),
      line('snare', [38, 39, 40], 106, '......x.....', '...x.....x..', '..x..x..x..x'),
      line('hat', [42, 70], 76, 'xxxxxxxxxxxx', 'x.xx.xx.xx.x'),
    ],
  },
  {
    name: 'no-drums',
    ...four,
    weight: 2,
    tempo: [58, 136],
    swing: 0.1,
    minor: 0.5,
    drumless: true,
    lines: [
      line('snare', [39, 37, 56, 75], 80, '....x.......x...', '....x.......x...', '....x.......x...', '..x...x...x...x.', 'x...x...x...x...'),
      line('extra', [70, 54, 82, 69], 60, 'x.x.x.x.x.x.x.x.', '..x...x...x...x.', 'x...x...x...x...'),
    ],
  },
  {
    name: 'no-drums-3',
    meter: [3, 4],
    beatsPerBar: 3,
    steps: 12,
    tempo: [84, 150],
    swing: 0,
    minor: 0.5,
    drumless: true,
    lines: [line('snare', [39, 37], 80, '....x...x...', '........x...'), line('extra', [70, 54], 60, 'x.x.x.x.x.x.', 'x...x...x...')],
  },
  {
    name: 'no-drums-6',
    meter: [6, 8],
    beatsPerBar: 2,
    steps: 6,
    tempo: [46, 80],
    swing: 0,
    minor: 0.5,
    drumless: true,
    lines: [line('snare', [39, 37], 80, '...x..'), line('extra', [70, 54], 60, 'xxxxxx', 'x..x..')],
  },
]
