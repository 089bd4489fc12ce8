<script setup lang="ts">
/** A WAV file as a table: how it is cut, and why not if not. */
import Button from 'primevue/button'
import Dialog from '../dialogs/modalDialog'
import { ref } from 'vue'

import { workers } from '../../engine/workers'
import { useDocument } from '../../stores/document'

const props = defineProps<{ units: number[] }>()
const visible = defineModel<boolean>('visible', { required: true })
const document = useDocument()
const input = ref<HTMLInputElement>()
const file = ref<File | null>(null)
const byPitch = ref(true)
const samples = ref(String(document.rules?.cycle_samples ?? ''))
const problem = ref('')
const busy = ref(false)

function choose(event: Event) {
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
  problem.value = ''
}
async function cut() {
  if (!file.value) return
  busy.value = true
  problem.value = ''
  try {
    const name = file.value.name.replace(/\.[^.]*$/, '')
    const table = await workers().cutTable(file.value, name, byPitch.value ? null : Math.round(Number(samples.value)) || 0)
    problem.value = document.alter({ ask: 'add_table', units: props.units, table }) ?? ''
    if (!problem.value) visible.value = false
  } catch (error) {
    problem.value = error instanceof Error ? error.message : String(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Import a WAV as table" :style="{ width: '440px' }">
    <div class="rows">
      <span>File</span>
      <span class="line">
        <button type="button" class="btn" @click="input?.click()">Choose</button><b class="clip">{{ file?.name ?? 'none yet' }}</b>
        <input ref="input" type="file" accept=".wav,audio/wav" hidden data-testid="table-file" @change="choose" />
      </span>
      <span>Cut</span>
      <span class="seg" role="group" aria-label="Cut">
        <button type="button" :aria-pressed="byPitch" @click="byPitch = true">Detected</button>
        <button type="button" :aria-pressed="!byPitch" @click="byPitch = false">Fixed</button>
      </span>
      <template v-if="!byPitch">
        <span>Cycle</span><label class="line"><input v-model="samples" class="samples" aria-label="Samples of a cycle" /> samples</label>
      </template>
    </div>
    <p class="muted">Up to {{ document.rules?.cycles }} cycles are taken, evenly spread over the recording. The table is kept in the patch.</p>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer><Button label="Import" size="small" :disabled="!file" :loading="busy" @click="cut" /></template>
  </Dialog>
</template>

<style scoped>
.rows { display: grid; grid-template-columns: 60px 1fr; gap: 10px; align-items: center; }
.rows .seg { width: fit-content; }
.line { display: flex; gap: 8px; align-items: center; min-width: 0; }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.samples { width: 70px; height: 24px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--field); padding: 0 6px; font-weight: 600; }
.problem { color: var(--warn); background: var(--warn-bg); padding: 6px 8px; border-radius: var(--r); }
</style>
