/** What was copied of a kind of thing, for as long as the page is open; other patches may take it too. */
import { ref, type Ref } from 'vue'

const clips = { source: ref(''), effects: ref('') }

export function useClip(of: keyof typeof clips): { copied: Ref<string>; copy: (text: string) => void } {
  const copied = clips[of]
  return { copied, copy: (text) => (copied.value = text) }
}
