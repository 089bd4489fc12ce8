/** MIDI keyboards, where the browser grants them. They speak the same way as the simulated one; their clock sets tempo and start. */
import { onScopeDispose, readonly, ref, type Ref } from 'vue'

import { useDocument } from '../stores/document'
import { usePlaying, type Message } from '../stores/playing'
import { useSettings } from '../stores/settings'

export interface UseMidiReturn {
  /** What to show: names of the inputs, or why there is none. */
  status: Readonly<Ref<string>>
  available: boolean
  connect: () => Promise<void>
  /** Takes the bytes of a message that came at a moment, in milliseconds. */
  take: (bytes: ArrayLike<number>, timeMs: number) => void
}

/** Ticks of the clock in a beat. */
const TICKS = 24
/** Changes of the tempo below this are the clock's unrest, in beats a minute. */
const UNREST_BPM = 0.4
const CLOCK = { tick: 0xf8, start: 0xfa, goOn: 0xfb, stop: 0xfc }

export function useMidi(): UseMidiReturn {
  const document = useDocument()
  const playing = usePlaying()
  const settings = useSettings()
  const available = typeof navigator.requestMIDIAccess === 'function'
  const status = ref(available ? 'not connected' : 'not offered by this browser')
  let access: MIDIAccess | undefined
  let ticks: number[] = []
  let gesture = 0

  /** The tempo of the last beat of the clock; all changes of it since it started are one step. */
  function tick(timeMs: number) {
    ticks.push(timeMs)
    if (ticks.length <= TICKS) return
    const bpm = 60_000 / (timeMs - ticks[ticks.length - 1 - TICKS])
    ticks = ticks.slice(-TICKS)
    const tempo = document.value('audition.tempo_bpm')
    if (!tempo || Math.abs(tempo.value - bpm) < UNREST_BPM) return
    gesture ||= document.beginGesture()
    document.endGesture()
    document.alter({ ask: 'edit', edit: { do: 'set_value', address: tempo.address, value: Math.round(bpm * 10) / 10 }, units: [], gesture })
    document.refusal = ''
  }
  /** How hard a key counts, by how the keyboard is touched. */
  function touched(velocity: number): number {
    const [heavy, even, light] = document.rules?.touch_exponents ?? [1, 1, 1]
    const exponent = { heavy, even, light }[settings.touch]
    return velocity === 0 ? 0 : Math.max(1, Math.round(127 * (velocity / 127) ** exponent))
  }
  function take(bytes: ArrayLike<number>, timeMs: number) {
    const [status, first, second] = [bytes[0], bytes[1] ?? 0, bytes[2] ?? 0]
    if (status === CLOCK.tick) tick(timeMs)
    else if (status === CLOCK.start || status === CLOCK.goOn) {
      ticks = []
      gesture = 0
      playing.play()
    } else if (status === CLOCK.stop) playing.stop()
    else if (status < 0xf0 && bytes.length >= 2) playing.receive([status, first, (status & 0xf0) === 0x90 ? touched(second) : second] as Message)
  }
  const heard = (event: MIDIMessageEvent) => event.data && take(event.data, event.timeStamp)
  function attach() {
    const inputs = [...(access?.inputs.values() ?? [])]
    inputs.forEach((input) => (input.onmidimessage = heard))
    status.value = inputs.map((input) => input.name ?? 'unnamed').join(', ') || 'no keyboard plugged in'
  }
  async function connect() {
    try {
      access = await navigator.requestMIDIAccess()
      access.onstatechange = () => {
        // one that was unplugged lets nothing stuck
        playing.releaseAll()
        attach()
      }
      attach()
    } catch {
      status.value = 'refused by the browser; allow it in the address bar'
    }
  }
  onScopeDispose(() => access?.inputs.forEach((input) => (input.onmidimessage = null)))
  return { status: readonly(status), available, connect, take }
}
