<script setup lang="ts">
/** How it stands with saving, and a way out where it does not go on by itself. */
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import Popover from './OwnPopover.vue'
import UnsavedDialog from './dialogs/UnsavedDialog.vue'
import { download } from '../composables/screen/download'
import { useDocument } from '../stores/document'
import { useSaving } from '../stores/saving'

const props = defineProps<{ open: boolean }>()
const saving = useSaving()
const document = useDocument()
const router = useRouter()
const ways = ref<InstanceType<typeof Popover>>()
const offers = ref(false)
const problem = ref('')

const isStuck = computed(() => ['offline', 'failing', 'refused', 'elsewhere'].includes(saving.state) || saving.isUnkept)
/** Whether what is open cannot be saved as it is: what was found has the way out, which leaves the bar one word. */
const isBroken = computed(() => saving.state === 'refused' && saving.found.some(({ patch, why }) => patch === saving.id && why !== undefined))
const leftWords = computed(() => {
  const names = saving.waiting.map((patch) => patch.name).join(', ')
  return saving.waiting.length === 0 ? '' : `Not saved yet: ${names}. Kept here and tried again`
})

function saveFile() {
  ways.value?.hide()
  download(document.text(), `${document.view?.name ?? 'patch'}.json`, 'application/json')
}
async function keepAsNew() {
  problem.value = ''
  try {
    const patch = await saving.keepAsNew('(kept)')
    ways.value?.hide()
    await router.push(`/patch/${patch}`)
  } catch (error) {
    problem.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <span v-if="props.open" class="state" :class="saving.state" role="status" data-testid="save-state" :title="saving.words">{{ saving.words }}</span>
  <button v-if="props.open && isStuck && !isBroken" type="button" class="btn" aria-haspopup="true" @click="ways?.toggle($event)">Rescue…</button>
  <span v-if="leftWords" class="state left" role="status" data-testid="left-state" :title="leftWords">{{ leftWords }}</span>
  <button v-if="saving.found.length > 0" type="button" class="btn" :class="{ left: isBroken }" @click="offers = true">{{ isBroken ? 'Cannot be saved…' : `${saving.found.length} unsaved…` }}</button>
  <Popover ref="ways" label="What can be done">
    <div class="ways">
      <p>{{ saving.words }}.</p>
      <p v-if="saving.why" class="muted">{{ saving.why }}</p>
      <button type="button" class="btn" @click="saveFile">Save as a file</button>
      <button type="button" class="btn" @click="keepAsNew">Keep as a new patch</button>
      <button type="button" class="btn" @click="saving.save()">Try again now</button>
      <p v-if="problem" class="left" role="alert">{{ problem }}</p>
    </div>
  </Popover>
  <UnsavedDialog v-model:visible="offers" />
</template>

<style scoped>
.state { font-size: var(--fs-11); color: var(--ink-3); overflow: hidden; text-overflow: ellipsis; min-width: 0; }
.state.offline, .state.failing, .state.conflict, .state.refused, .state.elsewhere, .left { color: var(--warn); font-weight: 600; }
.btn { flex: none; }
.ways { display: flex; flex-wrap: wrap; gap: 8px; width: 320px; }
.ways p { flex-basis: 100%; margin: 0; }
</style>
