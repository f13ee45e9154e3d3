/** Waits that end: with what was waited for, when they are given up, or after a time limit with words for what did not come. */

/** Something gave no answer in time. */
export class NoAnswerError extends Error {
  constructor(readonly what: string) {
    super(`${what} gave no answer`)
    this.name = 'NoAnswerError'
  }
}

/** The promise's outcome. Rejects with NoAnswerError after so long. @param what Who was to answer: "the disk". */
export function within<T>(promise: Promise<T>, milliseconds: number, what: string): Promise<T> {
  let timer: ReturnType<typeof setTimeout>
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new NoAnswerError(what)), milliseconds)
  })
  return Promise.race([promise, late]).finally(() => clearTimeout(timer))
}

const LOOK_MILLISECONDS = 5

/** Looks again and again. Ends when `given` says so (the condition may not hold then). Rejects with NoAnswerError after so long. */
export async function until(
  condition: () => boolean,
  { milliseconds = Infinity, what = 'it', given = () => false }: { milliseconds?: number; what?: string; given?: () => boolean } = {},
): Promise<void> {
  const end = performance.now() + milliseconds
  while (!condition() && !given()) {
    if (performance.now() > end) throw new NoAnswerError(what)
    await sleep(LOOK_MILLISECONDS)
  }
}

export function sleep(milliseconds: number): Promise<void> {
  return new Promise(resolve => setTimeout(resolve, milliseconds))
}

/** A promise that is settled from outside. */
export function deferred<T>(): { promise: Promise<T>; resolve: (value: T) => void } {
  let resolve!: (value: T) => void
  const promise = new Promise<T>(settle => (resolve = settle))
  return { promise, resolve }
}
