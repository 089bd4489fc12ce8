/** One act at a time, and in words why it was not done. */
import { readonly, ref, type Ref } from 'vue'

export interface UseActReturn {
  busy: Readonly<Ref<boolean>>
  /** Why the last act was not done; nothing if it was. */
  problem: Readonly<Ref<string>>
  act(what: () => unknown): Promise<void>
}

export function useAct(): UseActReturn {
  const busy = ref(false)
  const problem = ref('')
  async function act(what: () => unknown) {
    if (busy.value) return
    busy.value = true
    problem.value = ''
    try {
      await what()
    } catch (error) {
      problem.value = `Not done: ${error instanceof Error ? error.message : String(error)}`
    } finally {
      busy.value = false
    }
  }
  return { busy: readonly(busy), problem: readonly(problem), act }
}
