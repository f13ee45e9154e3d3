/** Starts the server on PORT, or 4600. */
import { existsSync } from 'node:fs'
import { makeApp } from './app'
import { BUILT_PATH } from './places'

const port = Number(process.env.PORT ?? 4600)
if (!Number.isInteger(port) || port < 1 || port > 65_535) {
  console.error(`PORT must be a whole number from 1 to 65535, got "${process.env.PORT}".`)
  process.exit(1)
}
if (!existsSync(`${BUILT_PATH}index.html`)) {
  console.error('The app is not built yet. Run "npm run demo", which does everything.')
  process.exit(1)
}
const server = makeApp().listen(port, '127.0.0.1', error => {
  if (!error) console.log(`Plush Layer is at http://localhost:${port}/  (stop it with Ctrl C)`)
})
server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(error.code === 'EADDRINUSE' ? `Port ${port} is in use. Choose another: PORT=4700 npm run demo` : `The server could not start: ${error.message}`)
  process.exit(1)
})
