/** Notes: every source speaks MIDI to the audio thread, and nothing stays stuck. */
import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { bench, Superseded } from '../engine/bench'
import { makeSound } from '../engine/sound'
import { soundsAtHand } from '../engine/sounds'
import { useDocument } from './document'

export type Message = [number, number, number]

export const usePlaying = defineStore('playing', () => {
  const document = useDocument()
  const sound = makeSound()
  const started = ref(false)
  const failure = ref('')
  /** How many sources hold each key. */
  const held = ref(new Map<number, number>())
  const pedal = ref(false)
  const auditioning = ref(false)
  const loop = ref(false)
  /** Name of the patch heard in the library; none is loaded there at first. */
  const heard = ref<string | null>(null)
  let timers: number[] = []

  /** Waves the audio thread has, as it tells itself, and those on their way to it, oldest first. */
  let shelved = new Set<string>()
  const underWay: string[] = []
  const isThere = (key: string) => shelved.has(key) || underWay.includes(key)
  let wanted = 0
  sound.onHeld((keys) => {
    const before = shelved
    shelved = new Set(keys)
    underWay.shift()
    // a wave had to make room just when it was wanted again
    const gone = (document.view?.banks ?? []).some((key) => before.has(key) && !isThere(key))
    if (gone && document.program) void install(document.program, document.view?.banks ?? [])
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
          const bank = await bench().bank(text, key).catch((error: unknown) => {
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
      if (program) void install(program, document.view?.banks ?? [])
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

  function receive(message: Message) {
    if (!started.value) void start()
    const [status, first, second] = message
    const kind = status & 0xf0
    const count = held.value.get(first) ?? 0
    if (kind === 0x90 && second > 0) {
      held.value.set(first, count + 1)
    } else if (kind === 0x80 || kind === 0x90) {
      if (count === 0) return
      if (count > 1) {
        held.value.set(first, count - 1)
        return
      }
      held.value.delete(first)
    } else if (kind === 0xb0 && first === 64) {
      pedal.value = second >= 64
    }
    sound.midi(message)
  }

  const press = (key: number, velocity: number) => receive([0x90, key, Math.max(1, Math.min(127, Math.round(velocity)))])
  const release = (key: number) => receive([0x80, key, 0])

  /** Lets everything go. */
  function releaseAll() {
    stop()
    held.value.clear()
    pedal.value = false
    sound.midi([0xb0, 123, 0])
  }
  /** Silence within milliseconds. */
  function panic() {
    releaseAll()
    sound.midi([0xb0, 120, 0])
  }

  let auditioned: number | null = null
  function stop() {
    timers.forEach((timer) => window.clearTimeout(timer))
    timers = []
    if (auditioned !== null) release(auditioned)
    auditioned = null
    auditioning.value = false
  }

  /** Plays the auditioned note for its hold; again and again while looping. */
  function play() {
    stop()
    const note = document.view?.audition
    if (!note) return
    void start().then(() => {
      auditioned = note.key
      auditioning.value = true
      press(note.key, note.velocity)
      timers.push(window.setTimeout(() => {
        if (auditioned !== null) release(auditioned)
        auditioned = null
      }, note.hold_s * 1000))
      timers.push(window.setTimeout(() => (loop.value ? play() : stop()), Math.max(note.end_s, note.hold_s + 0.1) * 1000))
    })
  }

  useEventListener(window, 'blur', releaseAll)
  useEventListener(window, 'pagehide', panic)

  const heldKeys = computed(() => new Set(held.value.keys()))
  return {
    heard, started, failure, heldKeys, pedal, auditioning, loop, start, receive, press, release, releaseAll, panic, play, stop, setGain: sound.setGain, benchLoad: () => bench().load(), levels: sound.levels, scope: sound.scope, spectrum: sound.spectrum }
})
