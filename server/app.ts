/** The server: the built app and the demo song, isolated, with a policy that lets nothing out. */
import express, { type Express } from 'express'
import helmet from 'helmet'
import { randomBytes } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { ISOLATION_HEADERS } from './headers'
import { BUILT_PATH, DEMO_SONG_PATH } from './places'

export function makeApp(): Express {
  const page = readFileSync(`${BUILT_PATH}index.html`, 'utf8')
  const app = express()
  app.disable('x-powered-by')
  app.use((_request, response, next) => {
    response.locals.nonce = randomBytes(16).toString('base64')
    response.set(ISOLATION_HEADERS)
    next()
  })
  app.use(
    helmet({
      crossOriginEmbedderPolicy: false,
      crossOriginOpenerPolicy: false,
      crossOriginResourcePolicy: false,
      strictTransportSecurity: false,
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          // Decoders are WebAssembly that ships with the app.
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          // Encoders carry their workers in them, as text; nothing but the app's own scripts can make one.
          workerSrc: ["'self'", 'blob:'],
          styleSrc: ["'self'", (_request, response) => `'nonce-${(response as express.Response).locals.nonce as string}'`],
          fontSrc: ["'self'"],
          imgSrc: ["'self'", 'blob:'],
          mediaSrc: ["'self'", 'blob:'],
          // One of them carries its WebAssembly in an address, as text, and fetches it.
          connectSrc: ["'self'", 'data:'],
          manifestSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
    }),
  )
  app.get('/demo/slow-ferry.zip', (_request, response) => {
    response.sendFile(DEMO_SONG_PATH, { dotfiles: 'allow', headers: { 'Content-Type': 'application/zip' } }, error => {
      if (error && !response.headersSent) response.status(404).type('text').send('The demo song has not been made: run "npm run demo-song".')
    })
  })
  const sendPage: express.RequestHandler = (_request, response) => {
    response
      .type('html')
      .set('Cache-Control', 'no-store')
      .send(page.replace('__CSP_NONCE__', response.locals.nonce as string))
  }
  app.use('/assets', express.static(`${BUILT_PATH}assets`, { immutable: true, maxAge: '1y' }))
  // What the browser keeps to start without a server is the page as it is sent, with its policy.
  app.get('/index.html', sendPage)
  app.use(express.static(BUILT_PATH, { index: false }))
  app.get('/{*path}', (request, response, next) => {
    if (/\.[a-z0-9]+$/i.test(request.path)) response.status(404).type('text').send('Not found.')
    else sendPage(request, response, next)
  })
  return app
}
