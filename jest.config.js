export default {
  roots: ['<rootDir>/src', '<rootDir>/cli'],
  testEnvironment: 'node',
  extensionsToTreatAsEsm: ['.ts'],
  transform: { '^.+\\.tsx?$': ['ts-jest', { useESM: true, tsconfig: 'tsconfig.jest.json', diagnostics: false }] },
  testTimeout: 60_000,
}
