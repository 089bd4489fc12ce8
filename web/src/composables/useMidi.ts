/** MIDI keyboards, where the browser grants them. They speak the same way as the simulated one. */
import { onScopeDispose, readonly, ref, type Ref } from 'vue'

import { usePlaying } from '../stores/playing'
import { useSettings } from '../stores/settings'

export interface UseMidiReturn {
  /** What to show: names of the inputs, or why there is none. */
  status: Readonly<Ref<string>>
  available: boolean
  connect: () => Promise<void>
  /** Takes the bytes of a message that came at a moment, in milliseconds. */
  take: (bytes: ArrayLike<number>, timeMs: number) => void
}

export function useMidi(): UseMidiReturn {
  const playing = usePlaying()
  const settings = useSettings()
  const available = typeof navigator.requestMIDIAccess === 'function'
  const status = ref(available ? 'not connected' : 'not offered by this browser')
  let access: MIDIAccess | undefined
  const take = (bytes: ArrayLike<number>, timeMs: number) => playing.receive(Array.from(bytes), settings.touch, timeMs)
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
