/** Several things of a list marked at once: a click marks one more, Shift all from the one marked last. */
import { computed, ref, type ComputedRef, type Ref } from 'vue'

export interface UseMarksReturn {
  marked: Ref<number[]>
  /** Those that are marked and still in the list. */
  there: ComputedRef<number[]>
  mark: (id: number, range: boolean) => void
  markAll: (on: boolean) => void
}

export function useMarks(list: () => number[]): UseMarksReturn {
  const marked = ref<number[]>([])
  let last: number | undefined
  const there = computed(() => list().filter((id) => marked.value.includes(id)))
  function mark(id: number, range: boolean) {
    const all = list()
    const from = last === undefined ? -1 : all.indexOf(last)
    if (range && from >= 0) {
      const to = all.indexOf(id)
      const span = all.slice(Math.min(from, to), Math.max(from, to) + 1)
      marked.value = [...new Set([...marked.value, ...span])]
    } else marked.value = marked.value.includes(id) ? marked.value.filter((other) => other !== id) : [...marked.value, id]
    last = id
  }
  const markAll = (on: boolean) => (marked.value = on ? list() : [])
  return { marked, there, mark, markAll }
}
