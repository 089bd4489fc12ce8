<script setup lang="ts">
/** The patches: find, hear, open; make, import; bin and bring back. */
import { useInfiniteScroll, useSessionStorage } from '@vueuse/core'
import Button from 'primevue/button'
import Dialog from '../../components/modalDialog'
import InputText from 'primevue/inputtext'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import BackupDialog from './BackupDialog.vue'
import LibraryRow from './LibraryRow.vue'
import { downloadFrom } from '../../composables/download'
import { tellFirstLook } from '../../composables/firstLook'
import { useDropped } from '../../composables/useDropped'
import { useMarks } from '../../composables/useMarks'
import { api } from '../../engine/api'
import type { PatchSummary } from '../../engine/generated/PatchSummary'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { usePlaying } from '../../stores/playing'
import { useSaving } from '../../stores/saving'
import { useSettings } from '../../stores/settings'

const router = useRouter()
const route = useRoute()
const messages = useMessages()
const document = useDocument()
const saving = useSaving()
const playing = usePlaying()
const settings = useSettings()
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
type Column = 'name' | 'strips' | 'changed'
const sorted = useSessionStorage<{ by: Column; down: boolean }>('zolvik-sort', { by: 'changed', down: true })
function sortBy(by: Column) {
  sorted.value = { by, down: sorted.value.by === by ? !sorted.value.down : by !== 'name' }
  list.value?.scrollTo(0, 0)
}
const order = (by: Column) => (sorted.value.by === by ? (sorted.value.down ? 'descending' : 'ascending') : 'none')
const loaded = ref(false)
const hearing = ref<number | null>(null)
const file = ref<HTMLInputElement>()
const backups = ref(false)

const found = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  const text = (patch: PatchSummary) => `${patch.name} ${patch.tags.join(' ')} ${patch.note}`.toLowerCase()
  const { by, down } = sorted.value
  const key = (patch: PatchSummary) => (by === 'strips' ? patch.strips : by === 'changed' ? (patch.binned_at ?? patch.changed_at) : patch.name.toLowerCase())
  const fits = patches.value.filter((patch) => (!tag.value || patch.tags.includes(tag.value)) && words.every((word) => text(patch).includes(word)))
  return fits.sort((a, b) => (key(a) < key(b) ? -1 : key(a) > key(b) ? 1 : 0) * (down ? -1 : 1))
})

const tags = computed(() => [...new Set(patches.value.flatMap((patch) => patch.tags))].sort())
const { marked, there, mark, markAll } = useMarks(() => found.value.map((patch) => patch.id))
watch(bin, () => (marked.value = []))

function say(error: unknown, summary: string) {
  messages.add({ severity: 'error', summary, detail: error instanceof Error ? error.message : String(error), life: 8000 })
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
playing.heard = null
onMounted(async () => {
  const to = scrolled.value
  await refresh()
  requestAnimationFrame(() => setTimeout(() => {
    tellFirstLook()
    shown.value = Math.max(ROWS, shown.value)
  }))
  if (to === 0) return
  shown.value = Math.ceil(to / 50) + ROWS
  await nextTick()
  list.value?.scrollTo(0, to)
})
watch(bin, () => {
  patches.value = []
  loaded.value = false
  void refresh()
})

/** Rows that fill the screen, which are there first; rows on it and a few below; more come while scrolling. */
const FIRST_ROWS = 16
const ROWS = 60
const list = ref<HTMLElement>()
const shown = ref(FIRST_ROWS)
watch([search, bin, tag], () => (shown.value = ROWS))
useInfiniteScroll(list, () => { shown.value += ROWS }, { distance: 800, canLoadMore: () => shown.value >= ROWS && shown.value < found.value.length })

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
    playing.heard = patch.name
    playing.play()
  } catch (error) {
    say(error, 'Not played')
  }
}

/** A new patch is looked at as a note: it has no phrase. */
const create = () => act(async () => {
  settings.picture = 'note'
  return router.push(`/patch/${(await api.create({})).summary.id}`)
}, 'No patch was made')

/** Deleting for good is asked about, since nothing brings it back. */
const emptying = ref(false)
const emptyBin = () => act(async () => {
  const gone = await api.emptyBin()
  emptying.value = false
  binned.value = []
  messages.add({ severity: 'info', summary: `${gone.patches} ${gone.patches === 1 ? 'patch' : 'patches'} deleted for good`, life: 4000 })
}, 'The bin was not emptied')
/** One of the bin that is to be deleted for good, once it is asked about. */
const erased = ref<PatchSummary>()
const erase = () => act(async () => {
  if (erased.value) {
    await api.erase(erased.value.id)
    notBinned([erased.value.id])
  }
  erased.value = undefined
}, 'Not deleted')
const exportPatch = (patch: PatchSummary) => downloadFrom(patch.damage ? api.rawUrl(patch.id) : api.fileUrl(patch.id))

async function importFiles(files: File[]) {
  for (const each of files) {
    await act(async () => {
      const made = await api.importFile(each)
      messages.add({ severity: 'success', summary: `Imported “${made.summary.name}”`, life: 4000 })
    }, `“${each.name}” was not imported`)
  }
  if (file.value) file.value.value = ''
}
const over = useDropped(importFiles)

/** What went into the bin last can be taken out again at once. */
const binned = ref<number[]>([])
/** What is in the bin no more has nothing to be undone. */
const notBinned = (ids: number[]) => (binned.value = binned.value.filter((id) => !ids.includes(id)))
const toBin = (ids: number[]) => act(async () => {
  for (const id of ids) await api.bin(id)
  binned.value = ids
  // what is in the bin has no views to go to
  if (saving.last !== null && ids.includes(saving.last)) saving.last = null
  marked.value = []
}, 'Not moved')
const bringBack = () => act(async () => {
  for (const id of binned.value) await api.restore(id)
  binned.value = []
}, 'Not restored')
const restoreAll = (ids: number[]) => act(async () => {
  for (const id of ids) await api.restore(id)
  notBinned(ids)
  marked.value = []
}, 'Not restored')
async function exportAll(ids: number[]) {
  for (const patch of patches.value.filter(({ id }) => ids.includes(id))) {
    exportPatch(patch)
    // a browser takes only so many downloads at once
    await new Promise((go) => window.setTimeout(go, 300))
  }
}
const newTag = ref('')
const tagAll = (ids: number[]) => act(async () => {
  for (const id of ids) await api.tag(id, newTag.value.trim())
  newTag.value = ''
}, 'Not tagged')

</script>

<template>
  <main class="library">
    <div class="head">
      <h1>{{ bin ? 'Bin' : 'Library' }}</h1>
      <span class="muted">{{ found.length }} {{ found.length === 1 ? 'patch' : 'patches' }}</span>
      <span class="spacer" />
      <select v-if="tags.length" v-model="tag" class="tag" aria-label="Only with the tag"><option value="">All tags</option><option v-for="each in tags" :key="each" :value="each">{{ each }}</option></select>
      <InputText v-model="search" type="search" placeholder="Search name, tag, note" aria-label="Search" class="search" />
      <Button :label="bin ? 'Back to the library' : 'Bin'" :icon="bin ? 'pi pi-arrow-left' : 'pi pi-trash'" size="small" severity="secondary" variant="outlined" @click="bin = !bin" />
      <template v-if="!bin">
        <Button label="Backups" icon="pi pi-history" size="small" severity="secondary" variant="outlined" @click="backups = true" />
        <Button label="Import" icon="pi pi-upload" size="small" severity="secondary" variant="outlined" @click="file?.click()" />
        <input ref="file" type="file" accept=".json,.zip,application/json,application/zip" hidden data-testid="import" multiple @change="importFiles([...(($event.target as HTMLInputElement).files ?? [])])" />
        <Button label="New patch" icon="pi pi-plus" size="small" @click="create" />
      </template>
      <Button v-else label="Empty the bin" size="small" severity="secondary" variant="outlined" :disabled="patches.length === 0" @click="emptying = true" />
    </div>
    <div v-if="there.length || binned.length" class="several" role="toolbar" aria-label="Marked patches">
      <template v-if="there.length">
        <b>{{ there.length }} marked</b>
        <button type="button" class="btn" @click="exportAll(there)">Export</button>
        <template v-if="!bin">
          <button type="button" class="btn" @click="toBin(there)">Move to the bin</button>
          <label>Tag <input v-model="newTag" class="new-tag" maxlength="24" aria-label="Tag for those marked" @keydown.enter="newTag.trim() && tagAll(there)" /></label>
          <button type="button" class="btn" :disabled="!newTag.trim()" @click="tagAll(there)">Add tag</button>
        </template>
        <button v-else type="button" class="btn" @click="restoreAll(there)">Restore</button>
        <button type="button" class="link-btn" @click="markAll(false)">Clear selection</button>
      </template>
      <span class="spacer" />
      <span v-if="binned.length && !bin" role="status">{{ binned.length === 1 ? 'One patch is' : `${binned.length} patches are` }} in the bin now. <button type="button" class="link-btn" @click="bringBack">Undo</button></span>
    </div>
    <p v-if="over" class="dropping note">Let go to import</p>
    <div class="table" role="table" aria-label="Patches">
      <div class="row titles" role="row">
        <span role="columnheader" class="first"><input type="checkbox" :checked="found.length > 0 && there.length === found.length" aria-label="Mark all" @change="markAll(($event.target as HTMLInputElement).checked)" />Sound</span>
        <span role="columnheader" :aria-sort="order('name')"><button type="button" class="sort" @click="sortBy('name')">Name <i v-if="sorted.by === 'name'" class="pi" :class="sorted.down ? 'pi-angle-down' : 'pi-angle-up'" /></button><button type="button" class="sort" @click="sortBy('strips')">Strips <i v-if="sorted.by === 'strips'" class="pi" :class="sorted.down ? 'pi-angle-down' : 'pi-angle-up'" /></button></span>
        <span role="columnheader">Tags</span><span role="columnheader">How to play it</span>
        <span role="columnheader" :aria-sort="order('changed')"><button type="button" class="sort" @click="sortBy('changed')">{{ bin ? 'Binned' : 'Changed' }} <i v-if="sorted.by === 'changed'" class="pi" :class="sorted.down ? 'pi-angle-down' : 'pi-angle-up'" /></button></span><span role="columnheader"><span class="sr">Acts</span></span>
      </div>
      <div ref="list" class="list" role="rowgroup" tabindex="0" @scroll.passive="scrolled = list?.scrollTop ?? 0">
      <LibraryRow
        v-for="patch in found.slice(0, shown)" :key="patch.id" :patch="patch" :playing="hearing === patch.id && playing.auditioning" :hearing="hearing === patch.id" :marked="marked.includes(patch.id)"
        @mark="(range) => mark(patch.id, range)" @tag="tag = $event"
        @audition="audition(patch)" @open="router.push(`/patch/${patch.id}`)"
        @rename="(name) => act(() => api.rename(patch.id, name), 'Not renamed')"
        @duplicate="act(() => api.duplicate(patch.id), 'Not duplicated')"
        @remove="toBin([patch.id])" @restore="restoreAll([patch.id])"
        @export="exportPatch(patch)" @erase="erased = patch"
      />
      </div>
      <p v-if="loaded && found.length === 0" class="empty note">
        {{ search ? `Nothing matches “${search}”.` : bin ? 'The bin is empty.' : 'Nothing here yet. Make a new patch: it sounds at the first key.' }}
      </p>
    </div>
    <BackupDialog v-model:visible="backups" @taken="refresh" />
    <Dialog v-model:visible="emptying" modal header="Empty the bin" :style="{ width: '420px' }">
      <p>{{ patches.length }} {{ patches.length === 1 ? 'patch goes' : 'patches go' }} for good, with versions and recordings nothing else plays. The backup of the day may still have them.</p>
      <template #footer>
        <Button label="Keep them" size="small" severity="secondary" variant="outlined" autofocus @click="emptying = false" />
        <Button label="Delete for good" size="small" severity="danger" :loading="busy" @click="emptyBin" />
      </template>
    </Dialog>
    <Dialog :visible="erased !== undefined" modal :header="`Delete ${erased?.name ?? ''} for good`" :style="{ width: '420px' }" @update:visible="erased = undefined">
      <p>It goes with its versions, and with recordings nothing else plays. Nothing brings it back.</p>
      <template #footer>
        <Button label="Keep it" size="small" severity="secondary" variant="outlined" autofocus @click="erased = undefined" />
        <Button label="Delete for good" size="small" severity="danger" :loading="busy" @click="erase" />
      </template>
    </Dialog>
  </main>
</template>

<style scoped>
.library { min-height: 0; display: flex; flex-direction: column; background: var(--sheet); }
.head { display: flex; align-items: center; gap: 8px; padding: 12px 16px 10px; }
h1 { font-size: var(--fs-20); margin: 0 6px 0 0; font-weight: 600; }
.search { width: 240px; }
.tag, .new-tag { height: 28px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
.new-tag { width: 120px; }
.several { display: flex; align-items: center; gap: 8px; padding: 0 16px 8px; }
.sort { display: inline-flex; align-items: center; gap: 3px; min-height: 24px; padding: 0 8px 0 0; border: 0; background: none; color: inherit; cursor: pointer; }
.first { display: flex; align-items: center; gap: 8px; }
.head { flex-wrap: wrap; }
.table { position: relative; flex: 1; min-height: 0; display: flex; flex-direction: column; border-top: 1px solid var(--hair-2); }
.list { flex: 1 1 0; min-height: 0; overflow-y: auto; scrollbar-gutter: stable; }
.titles { scrollbar-gutter: stable; overflow: hidden; flex: none; }
.titles { color: var(--ink-3); font-size: var(--fs-11); min-height: 26px; }
.table :deep(.row) { display: grid; grid-template-columns: 204px 190px 170px minmax(0, 1fr) 96px 166px; gap: 12px; align-items: center; padding: 0 16px; border-bottom: 1px solid var(--hair); }
@media (max-width: 760px), (max-height: 560px) { .table { overflow-x: auto; } .titles, .list { min-width: 900px; } .search { width: auto; flex: 1 1 160px; } }
.empty { padding: 32px 16px; font-size: var(--fs-15); color: var(--ink-2); }
</style>
