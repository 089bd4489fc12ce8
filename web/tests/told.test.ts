/** A view put together from what is told and what is known. */
import { expect, test } from 'vitest'

import { makeMemory, share } from '../src/engine/told'

test('a part that is only named is what was told under that name', () => {
  const whole = makeMemory()
  expect(whole({ a: { told: 'strip 1', is: { name: 'Stem' } }, n: 1 })).toEqual({ a: { name: 'Stem' }, n: 1 })
  expect(whole({ a: { same: 'strip 1' }, n: 2 })).toEqual({ a: { name: 'Stem' }, n: 2 })
})

test('of two tellings the later one is known', () => {
  const whole = makeMemory()
  whole([{ told: 'x', is: { at: 1 } }])
  whole([{ told: 'x', is: { at: 2 } }])
  expect(whole([{ same: 'x' }, { same: 'x' }])).toEqual([{ at: 2 }, { at: 2 }])
})

test('a part that is named again is the same object, so that nothing is drawn anew', () => {
  const whole = makeMemory()
  const [first] = whole([{ told: 'x', is: { list: [1, 2] } }]) as unknown as object[]
  const [again] = whole([{ same: 'x' }]) as unknown as object[]
  expect(again).toBe(first)
})

test('what is told anew keeps the objects of what is as it was', () => {
  const whole = makeMemory()
  const before = whole({ told: 'x', is: { envelope: { points: [1, 2] }, level: 1 } }) as unknown as Record<string, unknown>
  const now = whole({ told: 'x', is: { envelope: { points: [1, 2] }, level: 2 } }) as unknown as Record<string, unknown>
  expect(now).not.toBe(before)
  expect(now.level).toBe(2)
  expect(now.envelope).toBe(before.envelope)
})

test('two memories know nothing of each other', () => {
  const [one, other] = [makeMemory(), makeMemory()]
  one({ told: 'x', is: 1 })
  expect(other({ same: 'x' })).toBe(undefined)
})

for (const [name, before, now, isSame] of [
  ['equal, it is the one of before', { a: [1, { b: 2 }] }, { a: [1, { b: 2 }] }, true],
  ['another value, it is the new one', { a: [1] }, { a: [2] }, false],
  ['a field more', { a: 1 }, { a: 1, b: 2 }, false],
  ['a field less', { a: 1, b: 2 }, { a: 1 }, false],
  ['a field of another name', { a: 1 }, { b: 1 }, false],
  ['a list a part shorter', [1, 2], [1], false],
  ['a list in place of an object', { 0: 1 }, [1], false],
  ['nothing in place of something', { a: 1 }, null, false],
  ['something in place of nothing', null, { a: 1 }, false],
] as const) {
  test(`share: ${name}`, () => {
    const shared = share<unknown>(before, now)
    expect(shared).toBe(isSame ? before : now)
    expect(shared).toEqual(now)
  })
}
