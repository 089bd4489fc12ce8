/** Notes: every source speaks MIDI to the audio thread, and nothing stays stuck. */
import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { workers, Superseded } from '../engine/workers'
import { makeSound, type PlayFrom } from '../engine/sound'
import { soundsAtHand } from '../engine/sounds'
import { share } from '../engine/told'
import type { ScoreOf } from '../engine/generated/ScoreOf'
import type { Touch } from '../engine/generated/Touch'
import { useDocument } from './document'
import { useMessages } from './messages'
import { useSettings } from './settings'

export type Message = [number, number, number]

/** Ways in that need the window: its keys drawn on the screen, and those of the computer. */
export const SCREEN = 'screen'
export const COMPUTER = 'computer'
export const SIMULATED = 'simulated'
const OF_THE_WINDOW = [SCREEN, COMPUTER, SIMULATED]
/** Wheels and pedals on the screen: they stay where they are put. */
export const WHEELS = 'wheels'

/** How often it is looked where what is played is, and how long it may take to begin, in milliseconds. */
const LOOK_MS = 33
const STARTS_MS = 400

export const usePlaying = defineStore('playing', () => {
  const document = useDocument()
  const settings = useSettings()
  const messages = useMessages()
  const sound = makeSound()
  const started = ref(false)
  /** Whether anything is heard now, or was a moment ago. */
  const audible = ref(false)
  const failure = ref('')
  /** Keys that are held by hand. */
  const held = ref<number[]>([])
  const pedal = ref(false)
  const auditioning = ref(false)
  const loop = ref(false)
  /** Name of the patch heard in the library; none is loaded there at first. */
  const heard = ref<string | null>(null)

  /** Waves the audio thread has, as it tells itself, and those on their way to it, oldest first. */
  let shelved = new Set<string>()
  const underWay: string[] = []
  const isThere = (key: string) => shelved.has(key) || underWay.includes(key)
  let wanted = 0
  sound.onRefused(() => messages.add({ severity: 'error', summary: 'Not heard', detail: 'The sound engine did not take up the last change and plays the state of before; load the page again.', life: 12_000 }))
  sound.onHeld((keys) => {
    const before = shelved
    shelved = new Set(keys)
    underWay.shift()
    // a wave had to make room just when it was wanted again
    const gone = (document.banks).some((key) => before.has(key) && !isThere(key))
    if (gone && document.program) void install(document.program, document.banks)
  })

  /** Gives the audio thread the waves a program reads, then the program; a newer program overtakes. */
  async function install(program: Uint8Array<ArrayBuffer>, banks: string[]) {
    const turn = ++wanted
    const missing = banks.filter((key) => !isThere(key))
    if (missing.length > 0) {
      const text = document.text()
      try {
        const lost = await soundsAtHand(document.view?.sounds ?? [])
        for (const key of missing) {
          // a newer program reads other waves: these are no longer wanted
          if (turn !== wanted) return
          const bank = await workers().bank(text, key).catch((error: unknown) => {
            // a strip whose audio is missing says so itself
            if (lost.length === 0 || error instanceof Superseded) throw error
          })
          if (!bank) continue
          sound.shelve(bank)
          underWay.push(key)
        }
      } catch (error) {
        if (error instanceof Superseded) return
        failure.value = error instanceof Error ? error.message : String(error)
      }
    }
    if (turn === wanted) sound.install(program)
  }
  watch(
    () => document.program,
    (program) => {
      if (program) void install(program, document.banks)
    },
  )

  /** Opens the sound; browsers allow it only inside a gesture. */
  async function start() {
    try {
      await sound.start()
      started.value = sound.running()
      failure.value = ''
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error)
      failure.value = `The sound did not start; press a key to try again (${why})`
    }
  }

  /** What was meant by hands: what is to be heard, which keys they hold, whether the pedal does. */
  interface ByHand { heard: Message[]; held: number[]; pedal: boolean }
  /** Looks at every message, and at ways in that go; there with the core. */
  let taking: { take: (way: string, bytes: number[], timeMs: number, touch: Touch) => ByHand | undefined; letGo: (ways: string[]) => ByHand | undefined } | undefined
  /** What came before the core was there, which knows who holds what. */
  const early: (() => void)[] = []
  function intercept(how: NonNullable<typeof taking>) {
    void document.ready().then(() => {
      taking = how
      early.splice(0).forEach((one) => one())
    })
  }
  function hear(by: ByHand | undefined) {
    if (!by) return
    held.value = share(held.value, by.held)
    pedal.value = by.pedal
    by.heard.forEach(sound.midi)
  }
  /** Takes a message of a way in: one of a keyboard as it is touched, at the moment it came, in milliseconds. */
  function receive(way: string, bytes: number[], touch: Touch = 'even', timeMs = performance.now()) {
    if (!started.value && bytes[0] < 0xf0) void start()
    if (taking) hear(taking.take(way, bytes, timeMs, touch))
    else early.push(() => receive(way, bytes, touch, timeMs))
  }

  const press = (way: string, key: number, velocity: number) => receive(way, [0x90, key, Math.max(1, Math.min(127, Math.round(velocity)))])
  const release = (way: string, key: number) => receive(way, [0x80, key, 0])
  /** Ways in go, or their window has the hand no more; without any, all do. */
  const letGo = (ways: string[] = []) => (taking ? hear(taking.letGo(ways)) : early.push(() => letGo(ways)))

  /** The window has the hand no more. */
  const lost = () => letGo(OF_THE_WINDOW)

  /** Lets everything go. */
  function releaseAll() {
    stop()
    letGo()
    sound.midi([0xb0, 123, 0])
  }
  /** Silence within milliseconds. */
  function panic() {
    releaseAll()
    sound.midi([0xb0, 120, 0])
  }

  /** What Play plays: the note, or the phrase where that is looked at. */
  const of = computed<ScoreOf>(() => (document.view?.phrase && (settings.picture === 'phrase' || heard.value !== null) ? 'phrase' : 'note'))
  /** Where in what is played it is, in seconds; nothing while nothing is. */
  const placeS = ref<number>()
  /** Factor by which the louder of two states is turned down. */
  const matched = ref(1)
  /** Factor that makes what is heard without something as loud as with it, for as long as it is left out. */
  const evened = ref(1)
  const isWithout = ref(false)
  const gain = computed(() => matched.value * evened.value)
  watch(gain, sound.setGain, { flush: 'sync' })
  const recording = ref(false)
  /** What is played now; after an edit the new one goes on at the same place. */
  let playing: ScoreOf | undefined
  let looks = 0
  function give(what: ScoreOf, from: PlayFrom) {
    const score = document.file({ ask: 'score', of: what })
    if (score) sound.play(score.bytes, { from, looped: loop.value || what === 'beat' }, document.view?.beat_gain ?? 0)
  }
  function stop() {
    if (playing) sound.stop()
    playing = undefined
    auditioning.value = false
    placeS.value = undefined
    window.clearInterval(looks)
  }
  /** Looks where it is, so that the picture can follow, and whether it has come to its end. */
  function look(sinceMs: number) {
    const beats = sound.placeBeats()
    if (beats >= 0) placeS.value = (beats * 60) / (document.value('audition.tempo_bpm')?.value ?? 120)
    else if (performance.now() - sinceMs > STARTS_MS) stop()
  }
  /** Plays the auditioned note or the phrase, from its beginning, a place in beats or where it was stopped; again and again while looping. */
  function play(what: ScoreOf = of.value, from: PlayFrom = 0) {
    stop()
    if (!document.view) return
    void start().then(() => {
      playing = what
      auditioning.value = true
      give(what, from)
      const since = performance.now()
      looks = window.setInterval(() => look(since), LOOK_MS)
    })
  }
  watch(
    () => [document.program, loop.value],
    () => {
      if (playing) give(playing, 'here')
    },
  )
  /** Keys of what is played that are down at this moment. */
  const sounding = computed<number[]>((before) => share(before, keysNow()))
  function keysNow(): number[] {
    const at = placeS.value
    const view = document.view
    if (at === undefined || !view) return []
    if (playing === 'phrase') return view.phrase?.notes.filter((note) => note.at_s <= at && at < note.end_s).map(({ key }) => key) ?? []
    return playing === 'note' && at < view.audition.hold_s ? [view.audition.key] : []
  }
  /** Records what is played, beside the beat or by itself. */
  function record() {
    void start().then(() => {
      if (playing === undefined) play('beat')
      sound.record()
      recording.value = true
    })
  }
  /** Ends recording; gives what was played. */
  async function recorded() {
    recording.value = false
    const events = await sound.recorded()
    stop()
    return events
  }

  // a window beside this one may have the hand now, whose keys come up there; a page that is out of sight plays nothing
  useEventListener(window, 'blur', lost)
  useEventListener(window.document, 'visibilitychange', () => window.document.hidden && releaseAll())
  useEventListener(window, 'pagehide', panic)

  const heldKeys = computed(() => new Set([...held.value, ...sounding.value]))
  return {
    audible, heard, matched, evened, isWithout, gain, placeS, recording, record, recorded, of, started, failure, heldKeys, pedal, auditioning, loop, start, intercept, receive, press, release, letGo, lost, releaseAll, panic, play, stop, workersLoad: () => workers().load(), places: sound.places, levels: sound.levels, scope: sound.scope, spectrum: sound.spectrum }
})
