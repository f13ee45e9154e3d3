import { describe, expect, test } from '@jest/globals'
import { readdirSync, readFileSync } from 'node:fs'
import { ANSWERS, findAnswers, helpPage } from './answers'

describe('what is asked in one’s own words finds its answer first', () => {
  test.each([
    ['my voice comes late', 'My voice comes late'],
    ['latency', 'My voice comes late'],
    ['it clips', 'It clips'],
    ['hook thin', 'The hook sounds thin'],
    ['what is a DOUBLE', 'What is a double?'],
    ['delay throw', 'An echo on one word'],
    ['backup', 'Where are my songs kept?'],
    ['lyr', 'How do I get my words in?'],
    ['saxophone', null],
  ])('%s', (asked, question) => expect(findAnswers(asked)[0]?.question ?? null).toBe(question))

  test('nothing finds all, nonsense finds none and does no harm', () => {
    expect(findAnswers('  ')).toEqual(ANSWERS)
    for (const odd of ['zzzz', '%$§', '\\', '((', '🛳️ ferry boat']) expect(findAnswers(odd).length).toBeLessThanOrEqual(ANSWERS.length)
    expect(findAnswers('zzzz')).toEqual([])
  })
})

test('the page in docs says the same', () => {
  expect(readFileSync('docs/help.md', 'utf8')).toBe(helpPage())
})

test('every button and card that an answer names is called so in the app', () => {
  const sources = ['src/app', 'src/core/deliver', 'src/core/mix', 'src/core/tune'].flatMap(folder =>
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter(file => /\.tsx?$/.test(file) && !/\.test\.|^help/.test(file))
      .map(file => readFileSync(`${folder}/${file}`, 'utf8').toLowerCase()),
  )
  const named = new Set(ANSWERS.flatMap(({ says }) => [...says.join(' ').matchAll(/“([^”]+)”/g)].map(([, label]) => label!.toLowerCase())))
  expect(named.size).toBeGreaterThan(10)
  // As a text of its own: between quotes, in a tag, or on a line.
  const isCalledSo = (label: string) =>
    sources.some(source => [`'${label}'`, `"${label}"`, `>${label}<`, `/> ${label}\n`, ` ${label}\n`, ` ${label}: {`].some(text => source.includes(text)))
  expect([...named].filter(label => !isCalledSo(label))).toEqual([])
})
