<script setup lang="ts">
/** The patches: find, hear, open; make, import; bin and bring back. */
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import BackupDialog from './BackupDialog.vue'
import ForGoodDialog from './ForGoodDialog.vue'
import LibraryRow from './LibraryRow.vue'
import MarkedBar from './MarkedBar.vue'
import SortButton from './SortButton.vue'
import { useLibraryActs } from './useLibraryActs'
import { useLibraryList } from './useLibraryList'
import { useDropped } from '../../composables/hand/useDropped'
import { useMarks } from '../../composables/hand/useMarks'
import { usePlaying } from '../../stores/playing'
import { useSaving } from '../../stores/saving'

const router = useRouter()
const playing = usePlaying()
useSaving().leave()
playing.heard = null

const list = ref<HTMLElement>()
const { patches, bin, search, tag, tags, scrolled, sorted, sortBy, order, loaded, found, shown, refresh } = useLibraryList(list, (error) => say(error, 'The library cannot be read'))
const { marked, there, mark, markAll } = useMarks(() => found.value.map((patch) => patch.id))
watch(bin, () => (marked.value = []))
const {
  say, busy, hearing, isHeard, audition, create, emptying, emptyBin, erased, erase, exportPatch, exportAll, importFiles, binned, toBin, bringBack, restoreAll, newTag, tagAll, rename, duplicate,
} = useLibraryActs(patches, marked, refresh)

const file = ref<HTMLInputElement>()
async function choose() {
  await importFiles([...(file.value?.files ?? [])])
  if (file.value) file.value.value = ''
}
const over = useDropped(importFiles)
const backups = ref(false)
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
        <input ref="file" type="file" accept=".json,.zip,application/json,application/zip" hidden data-testid="import" multiple @change="choose" />
        <Button label="New patch" icon="pi pi-plus" size="small" @click="create" />
      </template>
      <Button v-else label="Empty the bin" size="small" severity="secondary" variant="outlined" :disabled="patches.length === 0" @click="emptying = true" />
    </div>
    <MarkedBar
      v-if="there.length || binned.length" v-model:tag="newTag" :ids="there" :bin="bin" :binned="binned.length"
      @export="exportAll(there)" @remove="toBin(there)" @restore="restoreAll(there)" @tagged="tagAll(there)" @clear="markAll(false)" @undo="bringBack"
    />
    <p v-if="over" class="dropping note">Let go to import</p>
    <div class="table" role="table" aria-label="Patches">
      <div class="row titles" role="row">
        <span role="columnheader" class="first">
          <input
            type="checkbox" :checked="found.length > 0 && there.length === found.length" aria-label="Mark all"
            @change="markAll(($event.target as HTMLInputElement).checked)"
          />Sound
        </span>
        <span role="columnheader" :aria-sort="order('name')">
          <SortButton by="name" label="Name" :sorted="sorted" @click="sortBy('name')" />
          <SortButton by="strips" label="Strips" :sorted="sorted" @click="sortBy('strips')" />
        </span>
        <span role="columnheader">Tags</span><span role="columnheader">How to play it</span>
        <span role="columnheader" :aria-sort="order('changed')"><SortButton by="changed" :label="bin ? 'Binned' : 'Changed'" :sorted="sorted" @click="sortBy('changed')" /></span>
        <span role="columnheader"><span class="sr">Acts</span></span>
      </div>
      <div ref="list" class="list" role="rowgroup" tabindex="0" @scroll.passive="scrolled = list?.scrollTop ?? 0">
      <LibraryRow
        v-for="patch in found.slice(0, shown)" :key="patch.id" :patch="patch" :playing="isHeard === patch.id" :hearing="hearing === patch.id" :marked="marked.includes(patch.id)"
        @mark="(range) => mark(patch.id, range)" @tag="tag = $event"
        @audition="audition(patch)" @open="router.push(`/patch/${patch.id}`)"
        @rename="(name) => rename(patch, name)"
        @duplicate="duplicate(patch)"
        @remove="toBin([patch.id])" @restore="restoreAll([patch.id])"
        @export="exportPatch(patch)" @erase="erased = patch"
      />
      </div>
      <p v-if="loaded && found.length === 0" class="empty note">
        {{ search ? `Nothing matches “${search}”.` : bin ? 'The bin is empty.' : 'Nothing here yet. Make a new patch: it sounds at the first key.' }}
      </p>
    </div>
    <BackupDialog v-model:visible="backups" @taken="refresh" />
    <ForGoodDialog v-model:visible="emptying" header="Empty the bin" keep="Keep them" :busy="busy" @go="emptyBin">
      {{ patches.length }} {{ patches.length === 1 ? 'patch goes' : 'patches go' }} for good, with versions and recordings nothing else plays. The backup of the day may still have them.
    </ForGoodDialog>
    <ForGoodDialog :visible="erased !== undefined" :header="`Delete ${erased?.name ?? ''} for good`" keep="Keep it" :busy="busy" @update:visible="erased = undefined" @go="erase">
      It goes with its versions, and with recordings nothing else plays. Nothing brings it back.
    </ForGoodDialog>
  </main>
</template>

<style scoped>
.library { min-height: 0; display: flex; flex-direction: column; background: var(--sheet); }
.head { display: flex; align-items: center; gap: 8px; padding: 12px 16px 10px; }
h1 { font-size: var(--fs-20); margin: 0 6px 0 0; font-weight: 600; }
.search { width: 240px; }
.tag { height: 28px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
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
