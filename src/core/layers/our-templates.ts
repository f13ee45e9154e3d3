/** Templates that come with the app. */
import { DEFAULT_RECIPE, DEFAULT_SPACES, EMPTY_RECIPE, FREE, PLATE_ID } from '../song/usual-mix'
import { NO_ROOM } from '../song/beat-room'
import { USUAL_COMPRESSOR } from '../effects/compressor'
import { USUAL_ECHO } from '../effects/echo'
import { USUAL_SATURATION } from '../effects/saturation'
import { USUAL_HALL } from '../effects/reverb'
import type { Recipe, RecipeStep, Space, SpaceId, StepId } from '../song/mix-schema'
import type { Role } from '../song/schema'
import { USUAL_STAGE } from '../song/stage-schema'
import { USUAL_TIGHTNESS } from '../song/together-schema'
import { ROLE_PLACEMENT } from './roles'
import type { Template, TemplateLayer } from './template-schema'

/** Of a new song: what was not changed by hand before a template is laid is this. */
const USUAL_BEAT_DECIBELS = -4
const USUAL_CEILING_DBFS = -1

type LayerWish = Pick<TemplateLayer, 'name' | 'role'> & Partial<TemplateLayer>

function layer({ name, role, ...own }: LayerWish): TemplateLayer {
  const { gainDecibels, pan, sendDecibels } = ROLE_PLACEMENT[role]
  const sends = [{ spaceId: PLATE_ID, gainDecibels: sendDecibels }]
  return { name, role, tint: role, gainDecibels, pan, distance: 0, tidy: null, tune: null, together: null, recipe: EMPTY_RECIPE, sends, sings: [], ...own }
}

/** Two layers of a role, as far to one side as to the other. */
function pair(role: Role, names: readonly [string, string], pan: number, own: Partial<TemplateLayer> = {}): TemplateLayer[] {
  return names.map((name, i) => layer({ name, role, ...own, pan: i === 0 ? -pan : pan }))
}

function template(name: string, says: string, layers: TemplateLayer[], own: Partial<Template> = {}): Template {
  return {
    name,
    says,
    layers,
    buses: [],
    vocalBus: { gainDecibels: 0, recipe: DEFAULT_RECIPE },
    spaces: DEFAULT_SPACES,
    stage: USUAL_STAGE,
    output: { recipe: EMPTY_RECIPE, ceilingDbfs: USUAL_CEILING_DBFS },
    beat: { gainDecibels: USUAL_BEAT_DECIBELS, room: NO_ROOM },
    booth: null,
    pattern: null,
    ...own,
  }
}

const together = { tightness: USUAL_TIGHTNESS, endsTogether: true }
const HOOKS = ['hook', 'chorus', 'refrain']

export const FULL_STACK = template('Full stack', 'A lead, two doubles, high and low harmonies in pairs, ad-libs left and right.', [
  layer({ name: 'Lead', role: 'lead' }),
  ...pair('double', ['Double left', 'Double right'], 0.6),
  ...pair('high-harmony', ['High 1', 'High 2'], 0.75),
  ...pair('low-harmony', ['Low 1', 'Low 2'], 0.4),
  ...pair('ad-lib', ['Ad-lib left', 'Ad-lib right'], 0.5),
])

const step = (kind: RecipeStep['kind'], settings: object): RecipeStep => ({ id: kind as StepId, kind, enabled: true, ...settings }) as RecipeStep
const recipe = (...steps: RecipeStep[]): Recipe => ({ ...EMPTY_RECIPE, steps })
/** One short answer, right behind the word: it thickens, and is not heard as an echo. */
const SLAP: Space = { id: 'slap' as SpaceId, kind: 'echo', name: 'Slap', ...FREE, ...USUAL_ECHO, delayBeats: null, delaySeconds: 0.11, feedbackFraction: 0.05 }
const HALL: Space = { id: 'hall' as SpaceId, kind: 'hall', name: 'Hall', ...FREE, ...USUAL_HALL }

export const OUR_TEMPLATES: readonly Template[] = [
  template('One voice', 'A lead and nothing else; a layer more whenever you want one.', [layer({ name: 'Lead', role: 'lead', sings: null })]),
  template('Lead and doubles', 'A lead, and two doubles for the hooks, brought to its timing.', [
    layer({ name: 'Lead', role: 'lead', sings: null }),
    ...pair('double', ['Double left', 'Double right'], 0.6, { together, sings: HOOKS }),
  ]),
  FULL_STACK,
  template(
    'Rap with ad-libs',
    'A dry, close lead, one double for the ends of lines, ad-libs from side to side in a short echo.',
    [
      layer({
        name: 'Lead',
        role: 'lead',
        sings: null,
        recipe: recipe(
          step('saturation', USUAL_SATURATION),
          step('compressor', { ...USUAL_COMPRESSOR, thresholdDecibels: -22, ratio: 4, attackSeconds: 0.003, releaseSeconds: 0.08 }),
        ),
        sends: [{ spaceId: SLAP.id, gainDecibels: -22 }],
      }),
      layer({ name: 'Ends', role: 'double', gainDecibels: -6, pan: 0, together, sings: [] }),
      ...pair('ad-lib', ['Ad-lib left', 'Ad-lib right'], 0.7, {
        sends: [
          { spaceId: SLAP.id, gainDecibels: -8 },
          { spaceId: PLATE_ID, gainDecibels: -16 },
        ],
      }),
    ],
    { spaces: [...DEFAULT_SPACES, SLAP] },
  ),
  template(
    'Choir of one',
    'One singer as a choir: the tune in the middle, pairs above and below it, an octave under all, far back in a hall.',
    [
      layer({ name: 'Lead', role: 'lead', sings: null, sends: [{ spaceId: HALL.id, gainDecibels: -14 }] }),
      ...(
        [
          ['double', ['Tune left', 'Tune right'], 0.3],
          ['high-harmony', ['High left', 'High right'], 0.6],
          ['high-harmony', ['Top left', 'Top right'], 0.9],
          ['low-harmony', ['Low left', 'Low right'], 0.5],
        ] as const
      ).flatMap(([role, names, pan]) => pair(role, names, pan, { distance: 0.4, together, sings: null, sends: [{ spaceId: HALL.id, gainDecibels: -10 }] })),
      layer({ name: 'Octave under', role: 'octave', distance: 0.3, together, sings: HOOKS, sends: [{ spaceId: HALL.id, gainDecibels: -14 }] }),
    ],
    { spaces: [...DEFAULT_SPACES, HALL] },
  ),
]
