import { describe, expect, test } from '@jest/globals'
import { readFileSync } from 'node:fs'
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
