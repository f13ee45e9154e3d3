/** Speed, as ratios to real time or to a reference: `npm run bench`. */
import { existsSync } from 'node:fs'

const chromium = existsSync('/usr/bin/chromium') && existsSync('dist/index.html')
// Each is loaded when it is asked for: the core's makes the demo song first.
const IN_THE_BROWSER = {
  '--beat': ['a beat from the drop to its facts', async () => (await import('./beat')).measureBeat()],
  '--comp': ['Comp at 60 takes and 12 layers', async () => (await import('./comp')).measureComp()],
  '--booth': ['recording', async () => (await import('./booth')).measureBooth()],
} as const

async function measure(option: keyof typeof IN_THE_BROWSER): Promise<void> {
  const [what, run] = IN_THE_BROWSER[option]
  console.log(`in the browser, ${what}:`)
  await run()
}

if (process.argv.includes('--mix')) (await import('./mix')).measureMix()
if (process.argv.includes('--deliver')) await (await import('./deliver')).measureDeliver()
const options = (Object.keys(IN_THE_BROWSER) as (keyof typeof IN_THE_BROWSER)[]).filter(option => process.argv.includes(option))
for (const option of options) await measure(option)
if (options.length === 0 && !['--mix', '--deliver'].some(option => process.argv.includes(option))) {
  await (await import('./core')).measureCore()
  ;(await import('./mix')).measureMix()
  await (await import('./deliver')).measureDeliver()
  if (chromium) {
    await (await import('./page')).measurePage()
    for (const option of ['--beat', '--comp', '--booth'] as const) await measure(option)
  } else console.log('in the browser: skipped, it needs Chromium and "npm run build"')
}
