/** How Chromium is started for tests and pictures: Debian's own, headless, with permission for a microphone that is a file. */

export const CHROMIUM = {
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking', '--use-fake-ui-for-media-stream', '--use-fake-device-for-media-stream'],
}
