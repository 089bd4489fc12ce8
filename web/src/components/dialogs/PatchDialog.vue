<script setup lang="ts">
/** Name, tags and note of the open patch, its named versions, and the file. */
import Button from 'primevue/button'
import Dialog from './modalDialog'
import InputText from 'primevue/inputtext'
import Textarea from 'primevue/textarea'
import { ref, watch } from 'vue'

import NameField from '../NameField.vue'
import { download, downloadFrom } from '../../composables/screen/download'
import { api } from '../../engine/api'
import type { VersionSummary } from '../../engine/generated/VersionSummary'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { useSaving } from '../../stores/saving'

const visible = defineModel<boolean>('visible', { required: true })
const document = useDocument()
const saving = useSaving()
const messages = useMessages()
const name = ref('')
const tags = ref('')
const note = ref('')
const versionName = ref('')
const versions = ref<VersionSummary[]>([])
const problem = ref('')
const busy = ref(false)

/** What the fields were filled with, and of which patch: what was typed and not applied is there again. */
let filled = { patch: -1, text: '' }
const typed = () => JSON.stringify([name.value, tags.value, note.value])
const unapplied = ref(false)
watch(visible, async (open) => {
  const view = document.view
  if (!open || !view || saving.id === null) return
  problem.value = ''
  unapplied.value = filled.patch === saving.id && typed() !== filled.text
  if (!unapplied.value) {
    name.value = view.name
    tags.value = view.tags.join(', ')
    note.value = view.note
    filled = { patch: saving.id, text: typed() }
  }
  await saving.save()
  await list(saving.id).catch(() => (versions.value = []))
})

/** Lists the versions; of several lists under way only the one asked for last is shown. */
let asked = 0
async function list(patch: number) {
  const mine = ++asked
  const found = await api.versions(patch)
  if (mine === asked) versions.value = found
}

function describe() {
  const list = tags.value.split(',').map((tag) => tag.trim()).filter(Boolean)
  const why = document.edit({ do: 'set_meta', meta: { name: name.value.trim(), tags: list, note: note.value } })
  problem.value = why ?? ''
  if (why) return
  filled.patch = -1
  visible.value = false
}
/** Back to what the patch says. */
function forget() {
  filled.patch = -1
  visible.value = false
}

async function keep() {
  const patch = saving.id
  if (patch === null || busy.value) return
  busy.value = true
  problem.value = ''
  try {
    // a version is kept of what is stored, so that has to be the present state
    if (!(await saving.save())) throw new Error(`No version was kept. ${saving.words}`)
    await api.keepVersion(patch, versionName.value)
    versionName.value = ''
    await list(patch)
  } catch (error) {
    problem.value = error instanceof Error ? error.message : String(error)
  } finally {
    busy.value = false
  }
}

async function bringBack(version: VersionSummary) {
  if (saving.id === null) return
  const patch = saving.id
  const full = await api.version(patch, version.id).catch((error: Error) => {
    problem.value = error.message
  })
  if (!full || saving.id !== patch) return
  // what it replaces is kept first
  const kept = (await saving.save()) && (await api.keepVersion(patch, `before “${version.name}”`).then(() => true, () => false))
  if (!kept) {
    problem.value = `Not brought back: the present state could not be kept as a version first. ${saving.words}`
    return
  }
  if (saving.id !== patch) return
  const why = document.alter({ ask: 'bring_back', text: full.document })
  problem.value = why ?? ''
  if (why) return
  messages.add({ severity: 'info', summary: `“${version.name}” is back`, detail: 'Undo returns to where you were.', life: 4000 })
  visible.value = false
}

async function rename(version: VersionSummary, to: string) {
  if (saving.id === null) return
  const patch = saving.id
  problem.value = ''
  await api.renameVersion(patch, version.id, to).then(() => list(patch)).catch((error: Error) => (problem.value = error.message))
}
/** A version that is to be deleted, once it is asked about. */
const doomed = ref<number>()
async function remove(version: VersionSummary) {
  if (saving.id === null) return
  if (doomed.value !== version.id) {
    doomed.value = version.id
    return
  }
  doomed.value = undefined
  problem.value = ''
  await api.deleteVersion(saving.id, version.id).then((left) => (versions.value = left)).catch((error: Error) => (problem.value = error.message))
}

/** What the store has; edits under way are saved first. What cannot be saved is exported as it stands here. */
async function exportFile() {
  const saved = await saving.save()
  if (saved && saving.id !== null) downloadFrom(api.fileUrl(saving.id))
  else download(document.text(), `${document.view?.name ?? 'patch'}.json`, 'application/json')
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="About this patch" :style="{ width: '560px' }">
    <div class="form">
      <label for="about-name">Name</label>
      <InputText id="about-name" v-model="name" :maxlength="document.rules?.name" autofocus />
      <label for="about-tags">Tags</label>
      <InputText id="about-tags" v-model="tags" placeholder="bass, evolving" />
      <label for="about-note">How to play it</label>
      <Textarea id="about-note" v-model="note" rows="3" :maxlength="document.rules?.note" />
      <span />
      <div class="row">
        <Button label="Apply" size="small" @click="describe" />
        <Button label="Export patch file" size="small" severity="secondary" variant="outlined" @click="exportFile" />
      </div>
    </div>
    <p v-if="unapplied" class="muted" role="status">What you typed last time is still here, not applied. <button type="button" class="link-btn" @click="forget">Forget it</button></p>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <h3>Versions</h3>
    <div class="row">
      <InputText v-model="versionName" aria-label="Name of the version" placeholder="name for the present state" :maxlength="document.rules?.name" @keydown.enter="keep" />
      <Button label="Keep version" size="small" :disabled="!versionName.trim() || busy" @click="keep" />
    </div>
    <ul>
      <li v-for="version in versions" :key="version.id">
        <span class="strong"><NameField :name="version.name" :label="`Name of version ${version.name}`" :most="document.rules?.name" @rename="rename(version, $event)" /></span>
        <span class="muted">{{ new Date(version.created_at).toLocaleString() }}</span>
        <span class="spacer" />
        <span v-if="version.damage" class="problem" :title="version.damage">Damaged</span>
        <Button v-else label="Bring back" size="small" variant="text" :aria-label="`Bring back ${version.name}`" @click="bringBack(version)" />
        <Button :label="doomed === version.id ? 'Delete for good?' : 'Delete'" size="small" variant="text" severity="secondary" :aria-label="doomed === version.id ? `Delete version ${version.name} for good: press again` : `Delete version ${version.name}`" @click="remove(version)" @blur="doomed = undefined" />
      </li>
      <li v-if="versions.length === 0" class="muted">None yet. A version is kept for good, whatever you edit afterwards.</li>
    </ul>
  </Dialog>
</template>

<style scoped>
.form { display: grid; grid-template-columns: 110px 1fr; gap: 8px; align-items: center; }
.row { display: flex; gap: 8px; }
.row > :first-child { flex: 1; }
.form .row > :first-child { flex: none; }
h3 { font-size: var(--fs-13); margin: 16px 0 6px; }
ul { list-style: none; margin: 8px 0 0; padding: 0; max-height: 180px; overflow: auto; }
li { display: flex; gap: 8px; align-items: center; border-top: 1px solid var(--hair); min-height: 30px; }
.problem { color: var(--warn); }
</style>
