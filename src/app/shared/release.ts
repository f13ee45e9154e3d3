/** The app kept by the browser, so that it starts without its server; and a newer release, taken when the singer says so. */
import { create } from 'zustand'
import { otherTabs } from '../../storage/open-tab'

interface Release {
  /** A newer one is fetched and waits; taking it begins the page anew. */
  waiting: ServiceWorker | null
  /** Why it was not taken. */
  problem: 'other-tabs' | null
}

export const useRelease = create<Release>(() => ({ waiting: null, problem: null }))

/** Asked for once the page is there and idle: what is kept is some megabytes. Without a server, or where the browser keeps nothing, all is as before. */
export async function keepForOffline(): Promise<void> {
  if (!import.meta.env.PROD || !('serviceWorker' in navigator)) return
  const registration = await navigator.serviceWorker.register('/sw.js').catch(() => null)
  if (!registration) return
  // The first one takes nothing over: there is nothing older than it.
  const offer = () => navigator.serviceWorker.controller && useRelease.setState({ waiting: registration.waiting })
  offer()
  registration.addEventListener('updatefound', () => {
    const coming = registration.installing
    coming?.addEventListener('statechange', () => coming.state === 'installed' && offer())
  })
}

/** Not while another tab is open: it would go on with the pages of the release before, which are gone then. */
export async function takeRelease(): Promise<void> {
  const { waiting } = useRelease.getState()
  if (!waiting) return
  if ((await otherTabs()) > 0) return useRelease.setState({ problem: 'other-tabs' })
  navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true })
  waiting.postMessage({ type: 'SKIP_WAITING' })
}
