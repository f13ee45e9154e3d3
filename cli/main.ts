/** Plush Layer on the command line: the core without the interface. */
import { Command, InvalidArgumentError } from 'commander'
import { DELIVERY_KINDS } from '../src/core/deliver/encoders'
import { FADE_RANGE_SECONDS } from '../src/core/deliver/delivery-shape'
import { PART_NAMES } from '../src/core/deliver/named-parts'
import { TARGETS } from '../src/core/deliver/targets'
import { NAME_PIECES } from '../src/core/files/names'
import { alignFile } from './align'
import { analyseFiles } from './analyse'
import { writeBeside } from './beside'
import { decodeFile } from './decode'
import { deliverSongFile } from './deliver'
import { writeDemoSong } from './demo-song'
import { runEffect } from './effect'
import { PART_KINDS } from '../src/core/parts/part'
import { fail } from './failure'
import { writeMade } from './made'
import { writePart } from './part'
import { renderSongFile } from './render'
import { findSeams } from './seams'
import { singTake } from './sing'
import { TUNE_STEPS } from '../src/core/tune/tune-settings'
import { aboutTemplate } from './template'
import { tidyFile } from './tidy'
import { tuneFile } from './tune'
import { analyseVoices } from './voice'

const wholeNumber = (text: string) => {
  const value = Number(text)
  if (!Number.isInteger(value) || value < 0) throw new InvalidArgumentError('a whole number from 0 is needed')
  return value
}

const seconds = (text: string) => {
  const value = Number(text)
  if (!(value >= 0 && value <= 60)) throw new InvalidArgumentError('seconds from 0 to 60 are needed')
  return value
}

const fade = (text: string) => {
  const value = Number(text)
  if (!(value >= FADE_RANGE_SECONDS.min && value <= FADE_RANGE_SECONDS.max))
    throw new InvalidArgumentError(`seconds from 0 to ${FADE_RANGE_SECONDS.max} are needed`)
  return value
}

const number = (text: string) => {
  const value = Number(text)
  if (!Number.isFinite(value)) throw new InvalidArgumentError('a number is needed')
  return value
}

const program = new Command('plush').description('Plush Layer on the command line.').showHelpAfterError('(try --help)')

program
  .command('analyse')
  .description('tempo, bars, key and loudness of beats, as one JSON array')
  .argument('<file...>', 'sound files: WAV, MP3, FLAC, Ogg Vorbis')
  .action(analyseFiles)
program
  .command('voice')
  .description('pitch, notes, phrases, onsets, breaths, esses, pops, clicks, clipping and noise floor of sung takes, as one JSON array')
  .argument('<file...>', 'sound files, one voice each')
  .action(analyseVoices)
program
  .command('tune')
  .description('a sung take drawn to a key or to written notes, as a float WAV; what was moved, as JSON')
  .argument('<file>', 'a sound file, one voice')
  .requiredOption('--out <wav>', 'the file to write')
  .option('--key <key>', 'such as "F major" or "C# minor"')
  .option('--notes <json>', 'a file with [{"start": seconds, "end": seconds, "midi": number}]')
  .option('--tuning-cents <cents>', 'how much higher than A = 440 Hz the music is', number, 0)
  .option('--speed <ms>', 'how fast a note is drawn to its rung; 0 at once', number, TUNE_STEPS.firmly.speedMilliseconds)
  .option('--amount <share>', 'of the way that is gone, 0 to 1', number, TUNE_STEPS.firmly.amount)
  .option('--tolerance <cents>', 'nearer notes are left', number, 0)
  .option('--vibrato <share>', 'how much of it stays, 0 to 1', number, 1)
  .option('--glides <share>', 'how much of them stays, 0 to 1', number, TUNE_STEPS.firmly.glidesKept)
  .option('--throat <semitones>', 'formants up or down', number, 0)
  .action(tuneFile)
program
  .command('align')
  .description('a double, harmony or ad-lib brought to the lead’s timing, as a float WAV on the lead’s time line; how far it was off, as JSON')
  .argument('<lead>', 'a sound file, one voice')
  .argument('<file>', 'a sound file that begins with it')
  .requiredOption('--out <wav>', 'the file to write')
  .option('--tightness <share>', '0 as sung, 1 every syllable with the lead’s', number, 1)
  .action(alignFile)
program
  .command('part')
  .description('a part for another voice from a sung lead: a MIDI file, or its notes as JSON')
  .argument('<lead>', 'a sound file, one voice')
  .requiredOption('--key <key>', 'such as "F major" or "C# minor"')
  .requiredOption('--part <part>', PART_KINDS.join(', '))
  .option('--chords <json>', 'a file with [{"start": seconds, "end": seconds, "chord": "Am"}]')
  .option('--out <mid>', 'the MIDI file to write')
  .option('--json', 'the notes as JSON: [{"start", "end", "midi"}]')
  .action(writePart)
program
  .command('made')
  .description('a voice that nobody sang, from a sung lead and the notes of a part, as a float WAV on the lead’s time line')
  .argument('<lead>', 'a sound file, one voice')
  .requiredOption('--notes <mid>', 'a MIDI file, as `part` writes it')
  .requiredOption('--out <wav>', 'the file to write')
  .option('--throat <semitones>', 'formants up or down', number, 0)
  .option('--seed <n>', 'which singer', wholeNumber, 1)
  .action(writeMade)
program
  .command('tidy')
  .description('what is mended in a sung take: breaths, esses, pops, clicks and rests, as JSON; and the sound with the mends, as a float WAV')
  .argument('<file>', 'a sound file, one voice')
  .requiredOption('--role <role>', 'lead, double, harmony or ad-lib')
  .option('--out <wav>', 'the file to write')
  .option('--list', 'only say what would be mended')
  .action(tidyFile)
program
  .command('seams')
  .description('where one take may end and another go on, for every pair of takes of one line, as JSON')
  .argument('<file...>', 'sound files, takes of one line')
  .action(findSeams)
program
  .command('decode')
  .description('what the importer makes of a sound file: 48 kHz float WAV')
  .argument('<file>', 'a sound file')
  .requiredOption('--out <wav>', 'the file to write')
  .action(decodeFile)
program
  .command('render')
  .description('the mix of a song file, or a part of it, as a file of the kind that its ending says')
  .argument('<songfile>', 'a song file (zip)')
  .option('--out <wav>', 'the file to write')
  .option('--only <part>', 'vocals, beat, a role such as double, or a layer by its name')
  .option('--stems <folder>', 'the beat and a file for each layer that is heard; they sum to the mix')
  .option(
    '--rate <hz>',
    '44100, 48000, 88200 or 96000, where the format has it',
    value => {
      if (!['44100', '48000', '88200', '96000'].includes(value)) throw new InvalidArgumentError('44100, 48000, 88200 or 96000')
      return Number(value)
    },
    48_000,
  )
  .action(renderSongFile)
program
  .command('deliver')
  .description('parts of a song file as sound files; what they are, as JSON')
  .argument('<songfile>', 'a song file (zip)')
  .requiredOption('--out <folder>', 'where they go')
  .option('--part <parts>', `of ${PART_NAMES.join(', ')}, roles, names of layers and spaces, with commas between them`, 'mix')
  .option('--format <format>', DELIVERY_KINDS.join(', '))
  .option('--rate <hz>', 'of WAV and FLAC 44100 to 96000; of the others as the format has it', wholeNumber)
  .option('--bits <n>', 'of WAV: 16, 24 or 32 (floats)', wholeNumber)
  .option('--bitrate <kbps>', 'of MP3, AAC and Opus', wholeNumber)
  .option('--variable', 'MP3 whose rate goes with the sound, about 128, 192 or 256 kbps')
  .option('--target <name>', `where they go, which sets format, loudness and names: ${TARGETS.map(({ id }) => id).join(', ')}`)
  .option('--range <bars>', 'such as 5-12; the last bar belongs to it')
  .option('--first-sound', 'from the first sound, and not from the beginning of the song')
  .option('--fade-in <seconds>', 'up to 30', fade, 0)
  .option('--fade-out <seconds>', 'up to 30', fade, 0)
  .option('--pattern <text>', `of file names, with ${NAME_PIECES.map(piece => `{${piece}}`).join(' ')}`)
  .option('--tags <json>', 'such as {"artist": "…", "album": "…", "year": 2026}')
  .action(deliverSongFile)
program
  .command('beside')
  .description('lyrics, timed lyrics (LRC), notes (MIDI), places (CSV) and a session sheet of a song file')
  .argument('<songfile>', 'a song file (zip)')
  .requiredOption('--out <folder>', 'where they go')
  .option('--artist <name>', 'who sings')
  .action(writeBeside)
program
  .command('template')
  .description('whether a file is a template, and what it holds, as JSON; or a template made of a song file; or those that come with the app')
  .argument('[file]', 'a template (JSON)')
  .option('--check', 'only that; which is what happens anyway')
  .option('--of <songfile>', 'first make the file of this song')
  .option('--name <name>', 'what it is called then', '')
  .option('--ours <folder>', 'write those that come with the app')
  .action(aboutTemplate)
program
  .command('effect')
  .description('a sound put through one effect, as a float WAV; or what effects there are, as JSON')
  .argument('[kind]', 'which effect')
  .argument('[file]', 'a sound file')
  .option('--list', 'every kind with its settings, their units, ranges and usual values')
  .option('--settings <json>', 'those that differ from the usual ones')
  .option('--out <wav>', 'the file to write')
  .option('--tail <seconds>', 'silence after the sound, for what rings on', seconds, 0)
  .action(runEffect)
program
  .command('demo-song')
  .description('the demo song as a song file')
  .argument('<out>', 'the zip to write')
  .option('--if-stale', 'only if it is missing or older than the code that makes it')
  .action(writeDemoSong)
program
  .command('sing')
  .description('what the practice singer sings over the demo song, as a 16-bit mono WAV')
  .argument('<out>', 'the WAV to write')
  .option('--seed <n>', 'which singer', wholeNumber, 7)
  .option('--take <n>', 'which pass', wholeNumber, 1)
  .option('--no-faults', 'exactly as written')
  .action(singTake)

program.parseAsync().catch((error: unknown) => fail(error instanceof Error ? error.message : String(error)))
