/** What singers ask, answered in a few sentences, each with the room to go to. The guide in docs/help.md says the same. */
import type { ROOMS } from '../frame/rooms'

export interface Answer {
  question: string
  /** Other words that people look for it by. */
  also: string
  /** Sentence by sentence. */
  says: readonly string[]
  /** Where it is done; null: the Shelf. */
  room: (typeof ROOMS)[number]['path'] | null
}

export const ANSWERS: readonly Answer[] = [
  {
    question: 'My voice comes late',
    also: 'latency delay behind early timing round trip offset sync',
    says: [
      'Sound needs a moment to get out of the computer and in again.',
      'In the Booth, “Measure” under “On time” sends a chirp through your headphones, held to the microphone,',
      'and from then on every take is moved by exactly that.',
      'A take that is late all the same can be moved by a typed number in Comp, or the line in Tidy.',
    ],
    room: 'booth',
  },
  {
    question: 'It clips',
    also: 'distorted overload red peaks too loud crackle clipping',
    says: [
      'The microphone got more than it can tell.',
      'Turn it down at the interface until your loudest note stays under the mark;',
      'the mic check in the Booth listens to you for a few seconds and says how far.',
      'A take with a few clipped tops can be rounded off in Tidy, as a makeshift.',
    ],
    room: 'booth',
  },
  {
    question: 'I hear myself late, or an echo of me',
    also: 'monitoring headphones feedback howl direct',
    says: [
      'Hear yourself through your interface if it can do that, and choose “by the interface” in the Booth’s headphones card;',
      'the app’s own way is a little late by nature.',
      'Loudspeakers that reach the microphone make an echo: wear headphones.',
    ],
    room: 'booth',
  },
  {
    question: 'Where is my microphone?',
    also: 'not found permission input device allow browser',
    says: [
      '“Record” asks the browser for it.',
      'If it was refused once, allow it in the browser’s address bar and open it again in the Booth.',
      'One that was unplugged is opened again by the same button.',
      'Without one, the practice singer sings, so that you can learn the rest.',
    ],
    room: 'booth',
  },
  {
    question: 'The tempo or the first bar is wrong',
    also: 'bpm half double grid bar one beat click off metre',
    says: [
      'In Beat, choose half or double, type or tap the tempo, or say “bar one is here” while it plays.',
      'Your takes stay where they are; lines and sections move with the bars.',
    ],
    room: 'beat',
  },
  {
    question: 'I have no beat yet',
    also: 'without beat click drone metronome a cappella acapella later',
    says: [
      'On the Shelf, “Without a beat” gives you a click or a drone at a typed tempo.',
      'When the beat is there, “Newer file” in Beat lays its bar one on yours.',
    ],
    room: null,
  },
  {
    question: 'How do I get my words in?',
    also: 'lyrics paste lines sections sheet verse hook',
    says: [
      'Press W and paste them.',
      'A blank line begins a section, a line such as [Hook] names it.',
      'They are laid over the bars, two to a line; drag, split and join lines afterwards, or tap them along.',
    ],
    room: 'beat',
  },
  {
    question: 'Which take is the best?',
    also: 'comp comping compare choose pick takes',
    says: [
      'In Comp each line shows its takes.',
      'Hear them with the arrow keys while it plays, as loud as each other, and pick with P.',
      '“First comp” proposes one with its reasons; the quiet places where one take may end and another begin are found for you.',
    ],
    room: 'comp',
  },
  {
    question: 'What is a double?',
    also: 'doubles doubling thick layer copy twice',
    says: [
      'The same line sung once more, panned aside and softer.',
      'It makes a hook wide because no two takes are alike.',
      'A copy of the lead only gets louder, or hollow.',
      'Stack makes doubles from takes you have not used, and says where there is none.',
    ],
    room: 'stack',
  },
  {
    question: 'The hook sounds thin',
    also: 'wide big fuller stack chorus harmonies layers more',
    says: [
      'Stack shows which lines have what.',
      '“What I want” proposes doubles and harmonies for the hooks, “Sing what is missing” takes you through them one by one in the Booth,',
      'and “Where each stands” spreads them from left to right.',
    ],
    room: 'stack',
  },
  {
    question: 'How do I find a harmony?',
    also: 'third part guide notes what to sing above below',
    says: [
      'In Stack, “What to sing” writes a third above or below, or another part, from your lead and the chords.',
      'It sounds in your headphones while you sing, its first note a beat before each entry.',
    ],
    room: 'stack',
  },
  {
    question: 'My double does not sit with the lead',
    also: 'alignment together late tight timing syllables',
    says: ['“With the lead” in Stack brings each syllable to the lead’s, as tightly as you like; single lines can stay as sung.'],
    room: 'stack',
  },
  {
    question: 'The breaths and esses are too loud',
    also: 'clean noise sibilance pops mouth clicks breathing hiss gate',
    says: [
      'Tidy finds breaths, esses, pops, clicks and noises, and lowers them by what you type, layer by layer.',
      'Every mend has a mark, and can be heard without, and taken off.',
    ],
    room: 'tidy',
  },
  {
    question: 'I sang it flat',
    also: 'tune tuning pitch correction out of tune sharp notes',
    says: [
      'Tidy reads your notes and draws them to the key as gently or as hard as you say.',
      'Move one note by a rung with the arrow keys, or leave it as sung with 0.',
    ],
    room: 'tidy',
  },
  {
    question: 'I want the hard, stepping sound',
    also: 'robot effect hard stepped computer voice',
    says: ['In Tidy choose “hard” for the layer: a speed of 0 ms and all of the way.', 'The headphones of the Booth can do the same while you sing.'],
    room: 'tidy',
  },
  {
    question: 'The beat drowns my voice',
    also: 'too quiet buried loud balance mix level masking',
    says: [
      'In Mix, “First mix” lays levels from what it hears, each with its reason.',
      '“Beat” lets the beat give way a little while you sing, and says how much clearer it got.',
    ],
    room: 'mix',
  },
  {
    question: 'An echo on one word',
    also: 'throw delay throws tail fill gap',
    says: ['Choose the word in Mix, press T, and T again: it goes into the echo as you sing it.', 'The answer can end before the next line.'],
    room: 'mix',
  },
  {
    question: 'A telephone voice for one line',
    also: 'radio filter effect colour lofi far away whisper',
    says: ['“Colours” in Mix lays radio, telephone, far away and others over a word, a line or a section.'],
    room: 'mix',
  },
  {
    question: 'Voice and beat do not hold together',
    also: 'glue bus master whole mix compressor gentle warm',
    says: [
      'Under “Output” in Mix, “The whole mix’s recipe” is what voices and beat go through together: begin with “gentle” or “warm”, and hear it “Without it”.',
      'It is on the mix alone, not on the files of voices, beat or single layers.',
    ],
    room: 'mix',
  },
  {
    question: 'How do I send it to my teacher?',
    also: 'export mp3 file name wav bounce deliver assignment',
    says: [
      'In Deliver choose “a teacher or a friend”, type how the file is to be called, and render.',
      'Bars, a section or the whole song; the report says how loud it is and what is wrong with it, if anything.',
    ],
    room: 'deliver',
  },
  {
    question: 'A friend mixes it',
    also: 'stems multitrack dry wet mixing engineer collaborate',
    says: [
      '“Each layer”, dry or with its spaces, begins with the beat and sums to your mix, without what the whole mix goes through.',
      'A friend who also sings gets the song file: what they add to it comes in beside what you have.',
    ],
    room: 'deliver',
  },
  {
    question: 'Where are my songs kept?',
    also: 'backup save disk storage lost browser cloud restore',
    says: [
      'In this browser on this machine, and nowhere else.',
      '“Back up all songs” on the Shelf puts them into one file; dropped on a Shelf, it brings them back.',
    ],
    room: null,
  },
  {
    question: 'The disk is nearly full',
    also: 'storage space room memory erase delete quota empty',
    says: [
      'The Shelf says what takes how much, and frees what can be made again first.',
      '“Empty the bin …”, under the takes in the Booth, erases what you took out of a song, for good.',
      'A song that you keep elsewhere as a song file can go to the Shelf’s bin and be erased there.',
    ],
    room: null,
  },
  {
    question: 'How do I get back what I had?',
    also: 'undo history versions bin restore deleted before',
    says: ['Ctrl Z takes back step by step.', 'U shows every step and your versions, to go back to any; taken-out takes lie in the Booth’s bin.'],
    room: 'booth',
  },
  {
    question: 'Does it work without the internet?',
    also: 'offline install app aeroplane',
    says: [
      'Yes.',
      'Once it was open, the browser keeps it; it starts and does everything without a network.',
      'The browser’s menu can install it like any other app.',
    ],
    room: null,
  },
]

/** Answers that have every word that is looked for, or its beginning; those that say it in the question first. Nothing looked for: all. */
export function findAnswers(text: string, answers: readonly Answer[] = ANSWERS): Answer[] {
  const wanted = wordsIn(text)
  const score = ({ question, also, says }: Answer) => {
    const places = [wordsIn(question), wordsIn(also), wordsIn(says.join(' '))]
    const best = wanted.map(word => places.findIndex(words => words.some(other => other.startsWith(word))))
    return best.includes(-1) ? null : best.reduce((sum, place) => sum + place, 0)
  }
  return answers
    .map(answer => ({ answer, at: score(answer) }))
    .filter((entry): entry is { answer: Answer; at: number } => entry.at !== null)
    .sort((a, b) => a.at - b.at)
    .map(({ answer }) => answer)
}

function wordsIn(text: string): string[] {
  return text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
}

/** The guide as a page of its own. */
export function helpPage(): string {
  const entries = ANSWERS.map(
    ({ question, says, room }) => `## ${question}\n\n${says.join(' ')}\n\nWhere: ${room ? room[0]!.toUpperCase() + room.slice(1) : 'the Shelf'}.`,
  )
  return `# What singers ask\n\nThe same answers are in the app, under “Help”, each with a button that goes there.\n\n${entries.join('\n\n')}\n`
}
