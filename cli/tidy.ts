/** `plush tidy`: what would be mended in a take of a role, as JSON, and the sound with the mends. */
import { mixToMono, SAMPLE_RATE_HZ } from '../src/core/audio/frames'
import { mendsFor, USUAL_TIDY, type Mend } from '../src/core/edits/tidy'
import { withMends } from '../src/core/prints/apply-mends'
import type { Role } from '../src/core/song/schema'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { writeWav } from './decode'
import { fail } from './failure'
import { loadSound } from './file-source'

/** A harmony is tidied alike, wherever it lies. */
const ROLES: Record<string, Role> = { lead: 'lead', double: 'double', harmony: 'high-harmony', 'ad-lib': 'ad-lib' }

export async function tidyFile(file: string, { role, out, list }: { role: string; out?: string; list?: true }): Promise<void> {
  const as = ROLES[role] ?? fail(`there is no role "${role}"; one of ${Object.keys(ROLES).join(', ')}`)
  if (!out && !list) fail('--out or --list is needed')
  const loaded = await loadSound(file)
  if (!loaded.ok) fail(`${file}: ${loaded.error}`)
  const voice = mixToMono(loaded.planes)
  const policy = USUAL_TIDY[as]
  const mends = mendsFor(analyseVoice(voice), policy, voice.length / SAMPLE_RATE_HZ)
  if (out) await writeWav(out, [withMends(voice, mends)], 'float32')
  console.log(JSON.stringify({ file, role, policy, mends: mends.map(describe) }))
}

function describe({ kind, startFrame, endFrame, decibels, tone }: Mend) {
  return {
    kind,
    start: startFrame / SAMPLE_RATE_HZ,
    end: endFrame / SAMPLE_RATE_HZ,
    ...(kind === 'click' ? { samples: endFrame - startFrame } : { decibels }),
    ...(tone ? { tone: [tone.startFrame / SAMPLE_RATE_HZ, tone.endFrame / SAMPLE_RATE_HZ] } : {}),
  }
}
