/** Node has no navigator; modules that look at it when they are loaded find a machine of two cores. */
Object.defineProperty(globalThis, 'navigator', { value: { hardwareConcurrency: 2 }, configurable: true })
