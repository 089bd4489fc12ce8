/** What is sent of a patch, and when it is said to be saved. */
import { beforeEach, expect, test, vi } from 'vitest'

import { makeSaver, type SavedSteps } from '../src/saving/saver'

interface Sent { document: string; steps: { past: string } | null }
const sent: Sent[] = []
vi.mock('../src/saving/drafts', () => ({ keepDraft: async () => {}, dropDraft: () => {} }))
vi.mock('../src/saving/tab', () => ({ tabOpened: () => '' }))
vi.mock('../src/engine/api', () => ({
  Refusal: class {},
  api: {
    save: async (_: number, what: Sent & { revision: number }) => {
      sent.push({ document: what.document, steps: what.steps })
      return { revision: what.revision + 1, changed_at: '' }
    },
  },
}))

const steps = (made: number) => ({ new: { past: `up to ${made}` }, made }) as unknown as SavedSteps
const fresh = () => makeSaver({ library: '', opening: '', tab: '', patch: 1, revision: 1, savedAt: '', saved: 'one', made: 1 })
/** The time after which a change is sent. */
const settle = () => vi.advanceTimersByTimeAsync(1000)

beforeEach(() => {
  vi.useFakeTimers()
  sent.length = 0
})

test('a text that settles is sent with its steps, once', async () => {
  const saver = fresh()
  saver.offer('two', 'name', steps(2))
  expect(saver.state.value).toBe('waiting')
  await settle()
  expect(sent).toEqual([{ document: 'two', steps: { past: 'up to 2' } }])
  expect([saver.state.value, saver.made(), saver.revision()]).toEqual(['saved', 2, 2])
  await settle()
  expect(sent.length).toBe(1)
})

test('a step that is taken back before it was sent is sent all the same', async () => {
  const saver = fresh()
  saver.offer('two', 'name', steps(2))
  saver.offer('one', 'name', steps(2))
  await settle()
  expect(sent).toEqual([{ document: 'one', steps: { past: 'up to 2' } }])
  expect([saver.state.value, saver.made()]).toEqual(['saved', 2])
})

test('back and forth between steps the server has sends nothing', async () => {
  const saver = fresh()
  saver.offer('none', 'name', steps(1))
  saver.offer('one', 'name', steps(1))
  await settle()
  expect(sent).toEqual([])
  expect(saver.state.value).toBe('saved')
})

test('of several texts the newest is sent', async () => {
  const saver = fresh()
  for (const [at, text] of ['two', 'three', 'four'].entries()) saver.offer(text, 'name', steps(at + 2))
  expect(await saver.flush()).toBe(true)
  expect(sent).toEqual([{ document: 'four', steps: { past: 'up to 4' } }])
})

test('while another window is asked about, steps alone ask nothing', async () => {
  const saver = fresh()
  saver.offer('two', 'name', steps(2))
  saver.state.value = 'conflict'
  saver.offer('one', 'name', steps(2))
  await settle()
  expect(saver.state.value).toBe('saved')
  expect(sent).toEqual([])
})
