/** How the command line says that something did not work. */

/** Prints one line to standard error and ends with exit code 1. */
export function fail(message: string): never {
  console.error(`plush: ${message}`)
  process.exit(1)
}
