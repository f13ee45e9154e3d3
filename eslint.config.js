// The lint rules: TypeScript's own recommendations, React's hook rules, and the one direction imports may point.
import tseslint from 'typescript-eslint'
import reactHooks from 'eslint-plugin-react-hooks'

const outer = ['app', 'engine', 'workers', 'storage']
const forbid = (...folders) => ({
  'no-restricted-imports': [
    'error',
    {
      patterns: folders.map(folder => ({ regex: `(^|/)\\.\\./(.*/)?${folder}/`, message: 'Imports point one way: app -> engine, workers, storage -> core.' })),
    },
  ],
})

/** The core from the ground up: a folder may not import from what comes after it. */
const CORE_FROM_BELOW = ['audio', 'loudness', 'effects', 'beat', 'latency', 'song', 'voice', 'comp', 'layers', 'tune', 'edits', 'align', 'parts', 'made', 'prints', 'stack', 'mix', 'propose', 'monitor', 'files', 'deliver', 'rehearsal']

export default tseslint.config(
  { ignores: ['dist/', '.demo/', 'node_modules/', 'test-results/', 'playwright-report/'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    plugins: { 'react-hooks': reactHooks },
    rules: {
      ...reactHooks.configs.recommended.rules,
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', ignoreRestSiblings: true }],
      'no-console': 'error',
    },
  },
  {
    files: ['src/core/**/*.ts'],
    rules: {
      ...forbid(...outer),
      'no-restricted-globals': [
        'error',
        ...['window', 'document', 'self', 'indexedDB', 'localStorage', 'navigator', 'fetch', 'process'].map(name => ({
          name,
          message: 'The core does not know where it runs.',
        })),
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Random numbers are arguments.' },
        { object: 'Date', property: 'now', message: 'Clocks are arguments.' },
      ],
    },
  },
  ...CORE_FROM_BELOW.map((folder, i) => ({
    files: [`src/core/${folder}/**/*.ts`],
    ignores: ['**/*.test.ts', '**/*.test-kit.ts'],
    rules: forbid(...outer, ...CORE_FROM_BELOW.slice(i + 1)),
  })),
  { files: ['src/{engine,workers,storage}/**/*.ts'], rules: forbid('app') },
  // Rooms stand on these; none of these knows a room.
  { files: ['src/app/frame/**/*.{ts,tsx}'], rules: forbid('rooms') },
  { files: ['src/app/{shared,song,recording,theme}/**/*.{ts,tsx}'], rules: forbid('rooms', 'frame') },
  { files: ['training/**', 'cli/**', 'bench/**', 'scripts/**', 'server/**', 'e2e/**'], rules: { 'no-console': 'off' } },
)
