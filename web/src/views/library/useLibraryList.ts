/** The list of the library or of its bin: read stretch by stretch, searched, sorted, and as it was left when one comes back. */
import { useInfiniteScroll, useSessionStorage } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { tellFirstLook } from '../../composables/screen/firstLook'
import { api } from '../../engine/api'
import type { PatchSummary } from '../../engine/generated/PatchSummary'

/** What the list can be sorted by. */
export type Column = 'name' | 'strips' | 'changed'

/** Patches of one answer: the first are on the screen before the rest is asked for. */
const STRETCH = 200
/** Rows that fill the screen, which are there first; rows on it and a few below; more come while scrolling. */
const FIRST_ROWS = 16
const ROWS = 60
/** Height of a row. */
const ROW_PX = 50

export function useLibraryList(list: Ref<HTMLElement | undefined>, failed: (error: unknown) => void) {
  const route = useRoute()
  const router = useRouter()
  const patches = ref<PatchSummary[]>([])
  /** The bin has an address of its own. */
  const bin = computed({
    get: () => route.query.bin !== undefined,
    set: (on) => void router.push({ path: '/', query: on ? { bin: '' } : {} }),
  })
  // coming back finds the list as it was left
  const search = useSessionStorage('zolvik-search', '')
  const tag = useSessionStorage('zolvik-tag', '')
  const scrolled = useSessionStorage('zolvik-scroll', 0)
  const sorted = useSessionStorage<{ by: Column; down: boolean }>('zolvik-sort', { by: 'changed', down: true })
  function sortBy(by: Column) {
    sorted.value = { by, down: sorted.value.by === by ? !sorted.value.down : by !== 'name' }
    list.value?.scrollTo(0, 0)
  }
  const order = (by: Column) => (sorted.value.by === by ? (sorted.value.down ? 'descending' : 'ascending') : 'none')
  const loaded = ref(false)

  const found = computed(() => {
    const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
    const text = (patch: PatchSummary) => `${patch.name} ${patch.tags.join(' ')} ${patch.note}`.toLowerCase()
    const { by, down } = sorted.value
    const key = (patch: PatchSummary) => (by === 'strips' ? patch.strips : by === 'changed' ? (patch.binned_at ?? patch.changed_at) : patch.name.toLowerCase())
    const fits = patches.value.filter((patch) => (!tag.value || patch.tags.includes(tag.value)) && words.every((word) => text(patch).includes(word)))
    return fits.sort((a, b) => (key(a) < key(b) ? -1 : key(a) > key(b) ? 1 : 0) * (down ? -1 : 1))
  })

  const tags = computed(() => [...new Set(patches.value.flatMap((patch) => patch.tags))].sort())

  let asked = 0
  async function refresh() {
    const turn = ++asked
    try {
      const all: PatchSummary[] = []
      for (let total = 1; all.length < total;) {
        const part = await api.list(bin.value, all.length, STRETCH)
        if (turn !== asked) return
        total = part.patches.length === 0 ? 0 : part.total
        all.push(...part.patches)
        // a shorter list than before is shown only when it is whole: nothing jumps
        if (all.length >= total || all.length > patches.value.length) patches.value = [...all]
        loaded.value = true
      }
      if (all.length === 0) patches.value = []
    } catch (error) {
      if (turn === asked) failed(error)
    }
  }
  onMounted(async () => {
    const to = scrolled.value
    await refresh()
    requestAnimationFrame(() => setTimeout(() => {
      tellFirstLook()
      shown.value = Math.max(ROWS, shown.value)
    }))
    if (to === 0) return
    shown.value = Math.ceil(to / ROW_PX) + ROWS
    await nextTick()
    list.value?.scrollTo(0, to)
  })
  watch(bin, () => {
    patches.value = []
    loaded.value = false
    void refresh()
  })

  const shown = ref(FIRST_ROWS)
  watch([search, bin, tag], () => (shown.value = ROWS))
  useInfiniteScroll(list, () => { shown.value += ROWS }, { distance: 800, canLoadMore: () => shown.value >= ROWS && shown.value < found.value.length })
  return { patches, bin, search, tag, tags, scrolled, sorted, sortBy, order, loaded, found, shown, refresh }
}
