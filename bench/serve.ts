/** The built app on a port of its own. */
import { makeApp } from '../server/app'

export async function serve(): Promise<{ port: number; close: () => void }> {
  const server = makeApp().listen(0, '127.0.0.1')
  await new Promise(resolve => server.once('listening', resolve))
  return { port: (server.address() as { port: number }).port, close: () => server.close() }
}
