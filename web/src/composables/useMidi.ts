/** MIDI keyboards, where the browser grants them. They speak the same way as the simulated one. */
import { onScopeDispose, readonly, ref, type Ref } from 'vue'

import { usePlaying, type Message } from '../stores/playing'

export interface UseMidiReturn {
  /** What to show: names of the inputs, or why there is none. */
  status: Readonly<Ref<string>>
  available: boolean
  connect: () => Promise<void>
}

export function useMidi(): UseMidiReturn {
  const playing = usePlaying()
  const available = typeof navigator.requestMIDIAccess === 'function'
  const status = ref(available ? 'not connected' : 'not offered by this browser')
  let access: MIDIAccess | undefined

  const take = (event: MIDIMessageEvent) => {
    if (event.data && event.data.length >= 2) playing.receive([event.data[0], event.data[1], event.data[2] ?? 0] as Message)
  }
  function attach() {
    const inputs = [...(access?.inputs.values() ?? [])]
    inputs.forEach((input) => (input.onmidimessage = take))
    status.value = inputs.map((input) => input.name ?? 'unnamed').join(', ') || 'no keyboard plugged in'
  }
  async function connect() {
    try {
      access = await navigator.requestMIDIAccess()
      access.onstatechange = () => {
        playing.releaseAll()
        attach()
      }
      attach()
    } catch {
      status.value = 'refused by the browser; allow it in the address bar'
    }
  }
  onScopeDispose(() => access?.inputs.forEach((input) => (input.onmidimessage = null)))
  return { status: readonly(status), available, connect }
}
