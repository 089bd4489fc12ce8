<script setup lang="ts">
/** Unsaved changes that were found: of tabs that are gone, or of patches that were changed elsewhere meanwhile. */
import Button from 'primevue/button'
import Dialog from './modalDialog'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { download } from '../../composables/screen/download'
import { useAct } from '../../composables/heard/useAct'
import { shortDate } from '../../draw/dates'
import type { Draft } from '../../saving/drafts'
import { thisTab } from '../../saving/tab'
import { useSaving } from '../../stores/saving'

const visible = defineModel<boolean>('visible', { required: true })
const saving = useSaving()
const router = useRouter()
const { busy, problem, act } = useAct()
watch(() => saving.found.length, (now, before = 0) => {
  if (now > before) visible.value = true
  if (now === 0) visible.value = false
}, { immediate: true })

const when = (draft: Draft) => shortDate(new Date(draft.at))
/** Which window it was made in. */
const mine = ref('')
void thisTab().then((tab) => (mine.value = tab))
const where = (draft: Draft) => (draft.tab === mine.value ? 'this window' : draft.opened ? `a window opened ${shortDate(new Date(draft.opened))}` : 'another window')

const take = (draft: Draft) => act(async () => {
  const patch = await saving.takeDraft(draft)
  visible.value = false
  await router.push(`/patch/${patch}`)
})
const copy = (draft: Draft) => act(async () => saving.copyDraft(draft))
const drop = (draft: Draft) => act(() => saving.leaveBehind(draft))
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Unsaved changes" :style="{ width: '640px' }">
    <p>These changes were not saved when their page was closed, or their patch was changed elsewhere meanwhile, or a backup was put in the library’s place.</p>
    <ul>
      <li v-for="draft in saving.found" :key="draft.tab + draft.patch" :data-draft="draft.patch">
        <span class="what"><span class="strong">{{ draft.name }}</span> <span class="muted">{{ when(draft) }}, in {{ where(draft) }}</span><span v-if="draft.why" class="why" :title="draft.why">Cannot be saved: {{ draft.why }}</span></span>
        <template v-if="draft.why !== undefined">
          <Button label="Open the nearest valid" size="small" :title="`It cannot be saved as it is: ${draft.why}. What is wrong is left out and told`" :disabled="busy" @click="take(draft)" />
          <Button label="Save as a file" size="small" severity="secondary" variant="outlined" @click="download(draft.text, `${draft.name}.json.txt`, 'text/plain')" />
        </template>
        <Button v-else label="Restore" size="small" title="Opens the patch with these changes; what is stored by now is kept as a version" :disabled="busy" @click="take(draft)" />
        <Button v-if="draft.why === undefined" label="Keep as a copy" size="small" severity="secondary" variant="outlined" :disabled="busy" @click="copy(draft)" />
        <Button label="Discard" size="small" severity="secondary" variant="text" :disabled="busy" @click="drop(draft)" />
      </li>
    </ul>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer><Button label="Later" size="small" severity="secondary" variant="text" @click="visible = false" /></template>
  </Dialog>
</template>

<style scoped>
ul { list-style: none; margin: 8px 0; padding: 0; max-height: 320px; overflow: auto; }
li { display: flex; gap: 8px; align-items: center; border-top: 1px solid var(--hair); min-height: 40px; }
.what { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.why { display: block; overflow: hidden; text-overflow: ellipsis; }
.why, .problem { color: var(--warn); }
</style>
