/** What is heard is what is exported: the worklet in real time against the offline renderer. */
import { expect, test } from '@playwright/test'
import type * as Plan from '../src/core/mix/plan'
import type * as RenderOffline from '../src/core/mix/render-offline'
import type * as SongStore from '../src/app/song/song-store'
import type * as EngineModule from '../src/engine/engine'
import type * as SharedState from '../src/engine/shared-state'
import type * as Sounds from '../src/storage/sounds'
import { DEVELOPMENT_PORT } from '../playwright.config'

const SECONDS = 12

test('the demo song played through the worklet equals its offline render to within -120 dB', async ({ page }) => {
  await page.goto(`http://localhost:${DEVELOPMENT_PORT}/`)
  await page.getByRole('button', { name: 'Open the demo song' }).first().click()
  await expect(page.getByRole('heading', { level: 1, name: 'Harbour radio hums in the rain' })).toBeVisible({ timeout: 60_000 })
  // The worklet's own output goes through a second capture worklet; the page's modules are used as they are.
  const result = await page.evaluate(async seconds => {
    const load = <T>(path: string) => import(/* @vite-ignore */ path) as Promise<T>
    const { Engine } = await load<typeof EngineModule>('/src/engine/engine.ts')
    const { makeCaptureState, CAPTURE, RING_FRAMES, TRANSPORT } = await load<typeof SharedState>('/src/engine/shared-state.ts')
    const { planMix } = await load<typeof Plan>('/src/core/mix/plan.ts')
    const { renderOffline } = await load<typeof RenderOffline>('/src/core/mix/render-offline.ts')
    const { makeAssetStore } = await load<typeof Sounds>('/src/storage/sounds.ts')
    const { currentSong } = await load<typeof SongStore>('/src/app/song/song-store.ts')
    const plan = planMix(currentSong())
    const startFrame = 10 * 48_000
    const range = { startFrame, endFrame: startFrame + seconds * 48_000 }
    const offline = new Float32Array(seconds * 48_000)
    let at = 0
    await renderOffline({
      plan,
      store: makeAssetStore(),
      range,
      sink: planes => {
        offline.set(planes[0]!, at)
        at += planes[0]!.length
      },
    })

    const engine = await Engine.start()
    const state = makeCaptureState()
    const tap = new AudioWorkletNode(engine.context, 'plush-capture', { channelCountMode: 'max', processorOptions: state })
    const silence = new GainNode(engine.context, { gain: 0 })
    engine.mix.connect(tap).connect(silence).connect(engine.context.destination)
    engine.setPlan(plan)
    Atomics.store(state.control, CAPTURE.armed, 1)
    // A worklet's processor is made in its own time; only once it writes is its first frame known.
    while (Atomics.load(state.control, CAPTURE.writtenFrames) === 0) await new Promise(resolve => setTimeout(resolve, 10))
    const started = new Promise<{ contextFrame: number }>(resolve => engine.listen(message => message.kind === 'started' && resolve(message)))
    await engine.play({ fromFrame: startFrame, loop: null, silentBeforeFrame: null, stopAtFrame: null })
    const { contextFrame } = await started
    const live = new Float32Array(seconds * 48_000)
    const first = Atomics.load(state.control, CAPTURE.firstContextFrame)
    for (let read = 0; ;) {
      const written = Atomics.load(state.control, CAPTURE.writtenFrames)
      for (; read < written; read++) {
        const place = first + read - contextFrame
        if (place >= 0 && place < live.length) live[place] = state.ring[read % RING_FRAMES]!
      }
      Atomics.store(state.control, CAPTURE.readFrames, read)
      if (first + read - contextFrame > live.length) break
      await new Promise(resolve => setTimeout(resolve, 50))
    }
    engine.stop()
    let worst = 0
    let level = 0
    // The start is faded in over a few milliseconds on purpose.
    for (let i = 512; i < live.length; i++) {
      worst = Math.max(worst, Math.abs(live[i]! - offline[i]!))
      level = Math.max(level, Math.abs(offline[i]!))
    }
    return {
      differenceDecibels: 20 * Math.log10(worst),
      level,
      missedBlocks: engine.transport[TRANSPORT.missedBlocks],
      lost: Atomics.load(state.control, CAPTURE.lostFrames),
    }
  }, SECONDS)
  expect(result).toMatchObject({ missedBlocks: 0, lost: 0 })
  expect(result.level).toBeGreaterThan(0.2)
  expect(result.differenceDecibels).toBeLessThan(-120)
})
