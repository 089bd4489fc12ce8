/** What is new in a program, put into the one of before as the audio thread does, gives the new one. */
import { expect, test } from 'vitest'

import { changes } from '../src/engine/changes'

/** Numbers from a seed, so that every run has the same. */
function makeRandom(seed: number) {
  let state = seed
  return (below: number) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    return Math.floor((state / 2 ** 32) * below)
  }
}
const bytesOf = (words: number[]) => new Uint8Array(new Uint32Array(words).buffer)
/** As `change` in the audio thread's script does it. */
function patched(before: Uint8Array, stretches: Uint32Array): Uint8Array {
  const bytes = before.slice()
  for (let at = 0; at < stretches.length; ) {
    const [place, count] = [stretches[at], stretches[at + 1]]
    bytes.set(new Uint8Array(stretches.buffer, 4 * (at + 2), 4 * count), 4 * place)
    at += 2 + count
  }
  return bytes
}

test('a few new words are told with their places, near ones together', () => {
  const before = Array.from({ length: 40 }, (_, n) => n)
  const now = [...before]
  now[9] = 100
  now[11] = 101
  now[30] = 102
  expect([...(changes(bytesOf(before), bytesOf(now)) ?? [])]).toEqual([9, 3, 100, 10, 101, 30, 1, 102])
})

test('nothing new is nothing to send', () => {
  const words = bytesOf([1, 2, 3, 4, 5])
  expect(changes(words, words.slice())?.length).toBe(0)
})

for (const [name, before, now] of [
  ['there was none before', undefined, bytesOf([1, 2])],
  ['it has another length', bytesOf([1, 2]), bytesOf([1, 2, 3])],
  ['it is not made of words', new Uint8Array(6), new Uint8Array(6)],
  ['most of it is new', bytesOf([1, 2, 3, 4]), bytesOf([5, 6, 7, 8])],
] as const) {
  test(`all of it is sent where ${name}`, () => expect(changes(before, now)).toBe(undefined))
}

test('the first and the last word count, and lengths that are no multiple of eight', () => {
  for (let length = 12; length < 30; length++) {
    for (const at of [0, length - 1]) {
      const before = Array.from({ length }, (_, n) => n)
      const now = before.with(at, 999)
      expect([...(changes(bytesOf(before), bytesOf(now)) ?? [])], `word ${at} of ${length}`).toEqual([at, 1, 999])
    }
  }
})

test('whatever changed, what the audio thread has is the new program', () => {
  const random = makeRandom(7)
  let told = 0
  for (let round = 0; round < 400; round++) {
    const before = Array.from({ length: 1 + random(200) }, () => random(5))
    const now = [...before]
    for (let n = random(20); n > 0; n--) now[random(now.length)] = random(5)
    const [old, young] = [bytesOf(before), bytesOf(now)]
    const stretches = changes(old, young)
    if (!stretches) continue
    told++
    expect(stretches.length <= young.length / 8 + 1, 'at most half as many words as there are').toBe(true)
    expect(patched(old, stretches).join()).toBe(young.join())
  }
  expect(told > 200, `${told}`).toBe(true)
})
