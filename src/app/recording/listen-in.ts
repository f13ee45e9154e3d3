/** Listening to the input without recording it: nothing is recorded meanwhile, and it is never begun while something is. */
import { useRecorder } from './recorder-store'

/** @returns null if the Booth was busy. */
export async function listenIn<T>(listen: () => Promise<T>): Promise<T | null> {
  if (useRecorder.getState().phase !== 'idle') return null
  useRecorder.setState({ phase: 'checking' })
  try {
    return await listen()
  } finally {
    useRecorder.setState({ phase: 'idle' })
  }
}
