/** The feeder: the worker in which the feed reads storage for the mix worklet. */
import '../core/without-eval'
import { isPrint } from '../core/prints/jobs'
import type { AssetId } from '../core/song/schema'
import { makeAssetStore } from '../storage/sounds'
import { Feed } from './feed'
import type { FromFeederToPage, ToFeeder } from './messages'

const TICK_MILLISECONDS = 40

const toldMissing = new Set<AssetId>()
const store = makeAssetStore(missing => {
  // A print may be made, and go, more than once.
  if (toldMissing.has(missing.assetId) && !isPrint(missing.assetId)) return
  toldMissing.add(missing.assetId)
  tellPage({ kind: 'missing', ...missing })
})
let feed: Feed | null = null

onmessage = ({ data }: MessageEvent<ToFeeder>) => {
  if (data.kind !== 'connect') return void feed?.receive(data)
  const { port, transport } = data
  feed = new Feed({
    store,
    transport,
    send: (message, transferred) => port.postMessage(message, transferred),
    onFailure: detail => tellPage({ kind: 'failed', detail }),
  })
}
setInterval(() => void feed?.tick(), TICK_MILLISECONDS)

function tellPage(message: FromFeederToPage): void {
  postMessage(message)
}
