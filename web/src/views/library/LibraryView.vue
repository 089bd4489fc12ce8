<script setup lang="ts">
/** The patches: find, hear, open; make, import; bin and bring back. */
import { useInfiniteScroll } from '@vueuse/core'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { useToast } from 'primevue/usetoast'
import { computed, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import LibraryRow from './LibraryRow.vue'
import { downloadFrom } from '../../composables/download'
import { api } from '../../engine/api'
import type { PatchSummary } from '../../engine/generated/PatchSummary'
import { useDocument } from '../../stores/document'
import { usePlaying } from '../../stores/playing'
import { useSaving } from '../../stores/saving'

const router = useRouter()
const toast = useToast()
const document = useDocument()
const saving = useSaving()
const playing = usePlaying()
const patches = ref<PatchSummary[]>([])
const bin = ref(false)
const search = ref('')
const loaded = ref(false)
const hearing = ref<number | null>(null)
const file = ref<HTMLInputElement>()

const found = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  const text = (patch: PatchSummary) => `${patch.name} ${patch.tags.join(' ')} ${patch.note}`.toLowerCase()
  return patches.value.filter((patch) => words.every((word) => text(patch).includes(word)))
})

function say(error: unknown, summary: string) {
  toast.add({ severity: 'error', summary, detail: error instanceof Error ? error.message : String(error), life: 8000 })
}

/** Patches of one answer: the first are on the screen before the rest is asked for. */
const STRETCH = 200
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
    if (turn === asked) say(error, 'The library cannot be read')
  }
}
saving.leave()
onMounted(refresh)
watch(bin, () => {
  patches.value = []
  loaded.value = false
  void refresh()
})

/** Rows on the screen and a few below; more come while scrolling. */
const ROWS = 60
const list = ref<HTMLElement>()
const shown = ref(ROWS)
watch([search, bin], () => (shown.value = ROWS))
useInfiniteScroll(list, () => { shown.value += ROWS }, { distance: 800, canLoadMore: () => shown.value < found.value.length })

/** One act at a time: a second click on the same thing does not do it twice. */
const busy = ref(false)
async function act(what: () => Promise<unknown>, failed: string) {
  if (busy.value) return
  busy.value = true
  try {
    await what()
    await refresh()
  } catch (error) {
    say(error, failed)
  } finally {
    busy.value = false
  }
}

/** Loads a patch into the engine without opening it, and plays its note. */
async function audition(patch: PatchSummary) {
  try {
    if (hearing.value === patch.id && playing.auditioning) {
      playing.stop()
      return
    }
    const turn = saving.leave()
    const [full] = await Promise.all([api.read(patch.id), document.start()])
    // another one was chosen, or a patch opened, while this was on its way
    if (!saving.isNow(turn)) return
    const why = document.load(full.document)
    if (why) throw new Error(why)
    document.select(null)
    hearing.value = patch.id
    playing.play()
  } catch (error) {
    say(error, 'Not played')
  }
}

const create = () => act(async () => router.push(`/patch/${(await api.create({})).summary.id}`), 'No patch was made')

/** Deleting for good is asked about, since nothing brings it back. */
const emptying = ref(false)
const emptyBin = () => act(async () => {
  const gone = await api.emptyBin()
  emptying.value = false
  toast.add({ severity: 'info', summary: `${gone.patches} ${gone.patches === 1 ? 'patch' : 'patches'} deleted for good`, life: 4000 })
}, 'The bin was not emptied')
const exportPatch = (patch: PatchSummary) => downloadFrom(patch.damage ? api.rawUrl(patch.id) : api.fileUrl(patch.id))

async function importFile(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  await act(async () => {
    const made = await api.importFile(chosen)
    toast.add({ severity: 'success', summary: `Imported “${made.summary.name}”`, life: 4000 })
  }, `“${chosen.name}” was not imported`)
  if (file.value) file.value.value = ''
}

</script>

<template>
  <main class="library">
    <div class="head">
      <h1>{{ bin ? 'Bin' : 'Library' }}</h1>
      <span class="muted">{{ found.length }} {{ found.length === 1 ? 'patch' : 'patches' }}</span>
      <span class="spacer" />
      <InputText v-model="search" type="search" placeholder="Search name, tag, note" aria-label="Search" class="search" />
      <Button :label="bin ? 'Back to the library' : 'Bin'" :icon="bin ? 'pi pi-arrow-left' : 'pi pi-trash'" size="small" severity="secondary" variant="outlined" @click="bin = !bin" />
      <template v-if="!bin">
        <Button label="Import" icon="pi pi-upload" size="small" severity="secondary" variant="outlined" @click="file?.click()" />
        <input ref="file" type="file" accept=".json,.zip,application/json,application/zip" hidden data-testid="import" @change="importFile" />
        <Button label="New patch" icon="pi pi-plus" size="small" @click="create" />
      </template>
      <Button v-else label="Empty the bin" size="small" severity="secondary" variant="outlined" :disabled="patches.length === 0" @click="emptying = true" />
    </div>
    <div ref="list" class="list" role="table" aria-label="Patches">
      <div class="row titles" role="row">
        <span role="columnheader">Sound</span><span role="columnheader">Name</span><span role="columnheader">Tags</span>
        <span role="columnheader">How to play it</span><span role="columnheader">{{ bin ? 'Binned' : 'Changed' }}</span><span role="columnheader" />
      </div>
      <LibraryRow
        v-for="patch in found.slice(0, shown)" :key="patch.id" :patch="patch" :playing="hearing === patch.id && playing.auditioning" :hearing="hearing === patch.id"
        @audition="audition(patch)" @open="router.push(`/patch/${patch.id}`)"
        @rename="(name) => act(() => api.rename(patch.id, name), 'Not renamed')"
        @duplicate="act(() => api.duplicate(patch.id), 'Not duplicated')"
        @remove="act(() => api.bin(patch.id), 'Not moved')" @restore="act(() => api.restore(patch.id), 'Not restored')"
        @export="exportPatch(patch)"
      />
      <p v-if="loaded && found.length === 0" class="empty note">
        {{ search ? `Nothing matches “${search}”.` : bin ? 'The bin is empty.' : 'Nothing here yet. Make a new patch: it sounds at the first key.' }}
      </p>
    </div>
    <Dialog v-model:visible="emptying" modal header="Empty the bin" :style="{ width: '420px' }">
      <p>{{ patches.length }} {{ patches.length === 1 ? 'patch goes' : 'patches go' }} for good, with versions and recordings nothing else plays. The backup of the day may still have them.</p>
      <template #footer>
        <Button label="Keep them" size="small" severity="secondary" variant="outlined" autofocus @click="emptying = false" />
        <Button label="Delete for good" size="small" severity="danger" :loading="busy" @click="emptyBin" />
      </template>
    </Dialog>
  </main>
</template>

<style scoped>
.library { min-height: 0; display: flex; flex-direction: column; background: var(--sheet); }
.head { display: flex; align-items: center; gap: 8px; padding: 12px 16px 10px; }
h1 { font-size: var(--fs-20); margin: 0 6px 0 0; font-weight: 600; }
.search { width: 240px; }
.list { flex: 1; min-height: 0; overflow-y: auto; border-top: 1px solid var(--hair-2); }
.titles { color: var(--ink-3); font-size: var(--fs-11); min-height: 26px; position: sticky; top: 0; background: var(--sheet); z-index: 2; }
.list :deep(.row) { display: grid; grid-template-columns: 176px 190px 170px minmax(0, 1fr) 96px 166px; gap: 12px; align-items: center; padding: 0 16px; border-bottom: 1px solid var(--hair); }
.empty { padding: 32px 16px; font-size: var(--fs-15); color: var(--ink-2); }
</style>
