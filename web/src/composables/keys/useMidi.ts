/** MIDI keyboards, where the browser grants them. They speak the same way as the simulated one. */
import { onScopeDispose, readonly, ref, type Ref } from 'vue'

import { usePlaying } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

export interface UseMidiReturn {
  /** What to show: names of the inputs, or why there is none. */
  status: Readonly<Ref<string>>
  available: boolean
  connect: () => Promise<void>
  /** Takes the bytes of a message that came at a moment, in milliseconds. */
  take: (way: string, bytes: ArrayLike<number>, timeMs: number) => void
}

export function useMidi(): UseMidiReturn {
  const playing = usePlaying()
  const settings = useSettings()
  const available = typeof navigator.requestMIDIAccess === 'function'
  const status = ref(available ? 'not connected' : 'not offered by this browser')
  let access: MIDIAccess | undefined
  const take = (way: string, bytes: ArrayLike<number>, timeMs: number) => playing.receive(way, Array.from(bytes), settings.touch, timeMs)
  /** Each keyboard is a way in of its own. */
  const wayOf = (id: string) => `keyboard ${id}`
  let attached: string[] = []
  function attach() {
    const inputs = [...(access?.inputs.values() ?? [])]
    const ways = inputs.map(({ id }) => wayOf(id))
    // one that was unplugged lets nothing stuck
    const gone = attached.filter((way) => !ways.includes(way))
    if (gone.length) playing.letGo(gone)
    attached = ways
    inputs.forEach((input) => {
      input.onmidimessage = (event) => event.data && take(wayOf(input.id), event.data, event.timeStamp)
    })
    status.value = inputs.map((input) => input.name ?? 'unnamed').join(', ') || 'no keyboard plugged in'
  }
  async function connect() {
    try {
      access = await navigator.requestMIDIAccess()
      access.onstatechange = attach
      attach()
    } catch {
      status.value = 'refused by the browser; allow it in the address bar'
    }
  }
  onScopeDispose(() => access?.inputs.forEach((input) => (input.onmidimessage = null)))
  return { status: readonly(status), available, connect, take }
}
