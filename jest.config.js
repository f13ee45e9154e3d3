export default {
  roots: ['<rootDir>/src', '<rootDir>/cli', '<rootDir>/server', '<rootDir>/training'],
  testEnvironment: 'node',
  transform: { '^.+\\.(ts|tsx|js|mjs)$': ['ts-jest', { tsconfig: 'tsconfig.jest.json', diagnostics: false }] },
  // The decoders ship as ES modules only.
  transformIgnorePatterns: ['/node_modules/(?!(mpg123-decoder|@mediabunny|mediabunny|wasm-media-encoders|p-limit|yocto-queue|@wasm-audio-decoders|@eshaz|codec-parser|simple-yenc)/)'],
  // Every look at a global goes through the sandbox; sums over samples would take minutes.
  sandboxInjectedGlobals: ['Math'],
  testTimeout: 60_000,
  // Nothing else runs meanwhile.
  maxWorkers: '100%',
}
