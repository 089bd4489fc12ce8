<script setup lang="ts">
/** Renders to files: the note or the phrase at once; sets of keys, articulations and FLAC as a job that can be watched and cancelled. */
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { computed, ref, watch } from 'vue'

import RenderList from './RenderList.vue'
import Dialog from './modalDialog'
import { download, downloadFrom } from '../../composables/screen/download'
import { workers } from '../../engine/workers'
import type { Batch } from '../../engine/generated/Batch'
import type { Progress } from '../../engine/generated/Progress'
import type { What } from '../../engine/generated/What'
import { rendersApi } from '../../engine/renders'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { useSettings } from '../../stores/settings'

const visible = defineModel<boolean>('visible', { required: true })
const document = useDocument()
const settings = useSettings()
const messages = useMessages()
const what = ref<What['of']>('note')
/** Whether what is muted for now is left out of the file. */
const leftOut = ref(false)
const busy = ref(false)
const bits = ref(24)
const rateHz = ref(48_000)
const toItsEnd = ref(true)
const flac = ref(false)
const all = ref(false)
/** Whether it goes on when the page is closed. */
const keep = ref(false)
const set = ref({ from: 'C2', to: 'C6', every: '3', velocities: '50, 90, 120' })
const hasBeat = computed(() => (document.view?.choices.find(({ id }) => id === 'playing.beat')?.at ?? 0) > 0)
const articulations = computed(() => document.view?.articulations ?? [])
/** Made by the server, file after file. */
const isJob = computed(() => what.value === 'set' || flac.value || (all.value && articulations.value.length > 0))
const job = ref<string>()
const progress = ref<Progress>()
const problem = ref('')
watch(visible, (open) => {
  if (open) what.value = settings.showsPhrase ? 'phrase' : 'note'
  problem.value = ''
})
watch(flac, (on) => {
  if (on && bits.value === 32) bits.value = 24
})

function keyOf(text: string): number {
  const answer = document.ask({ ask: 'key_of', text })
  document.refusal = ''
  if (answer.is !== 'key') throw new Error(`${text || 'nothing'} is no key; type a note such as C2`)
  return answer.key
}
function velocitiesOf(text: string): number[] {
  const answer = document.ask({ ask: 'velocities_of', text })
  document.refusal = ''
  if (answer.is !== 'velocities') throw new Error(answer.is === 'refused' ? answer.why : 'no velocities')
  return answer.list
}
function batch(): Batch {
  const all_articulations = all.value && articulations.value.length > 0
  if (what.value !== 'set') return { what: { of: what.value }, all_articulations }
  return { what: { of: 'set', from: keyOf(set.value.from), to: keyOf(set.value.to), every: Number(set.value.every) || 1, velocities: velocitiesOf(set.value.velocities) }, all_articulations }
}
const fail = (error: unknown) => (problem.value = error instanceof Error ? error.message : String(error))

async function render() {
  busy.value = true
  problem.value = ''
  try {
    if (isJob.value) await renderJob()
    else if (what.value !== 'set') {
      const { name, bytes } = await workers().wav(document.text(), leftOut.value ? document.view?.listening : undefined, bits.value, rateHz.value, toItsEnd.value, what.value)
      download(bytes, name, 'audio/wav')
      visible.value = false
    }
  } catch (error) {
    fail(error)
  } finally {
    busy.value = false
  }
}
async function renderJob() {
  const { id, files } = await rendersApi.begin({ document: document.text(), batch: batch(), format: flac.value ? 'flac' : 'wav', bits: bits.value, rate_hz: rateHz.value, keep: keep.value })
  progress.value = { done: 0, of: files, file: '', part: 0, ended: false, problem: null }
  await follow(id)
}
/** Follows a render to its end, and saves what it made. */
async function follow(id: string) {
  job.value = id
  try {
    const end = await rendersApi.watch(id, (now) => {
      if (job.value === id) progress.value = now
    })
    // stopped by hand, or followed no more: it stands in the list
    if (job.value !== id) return
    if (end.problem) throw new Error(end.problem)
    downloadFrom(rendersApi.fileUrl(id))
    messages.add({ severity: 'success', summary: 'Rendered', detail: `${end.of} ${end.of === 1 ? 'file' : 'files'}`, life: 4000 })
    visible.value = false
  } finally {
    if (job.value === id) {
      job.value = undefined
      progress.value = undefined
    }
  }
}
const goOn = (id: string) => void follow(id).catch(fail)
async function cancel() {
  const id = job.value
  job.value = undefined
  progress.value = undefined
  if (id) await rendersApi.stop(id).catch(fail)
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Render" :style="{ width: '470px' }">
    <div class="choices">
      <span>What</span>
      <span class="seg" role="group" aria-label="What is rendered">
        <button type="button" :aria-pressed="what === 'note'" @click="what = 'note'">Note</button>
        <button type="button" :aria-pressed="what === 'phrase'" :disabled="!document.view?.phrase" @click="what = 'phrase'">Phrase</button>
        <button type="button" :aria-pressed="what === 'beat'" :disabled="!document.view?.phrase || !hasBeat" @click="what = 'beat'">Phrase and beat</button>
        <button type="button" :aria-pressed="what === 'set'" title="Keys by velocities, for a sampler" @click="what = 'set'">Multisample set</button>
      </span>
      <template v-if="what === 'set'">
        <span>Keys</span>
        <span class="keys">
          <label>from <input v-model="set.from" aria-label="Lowest key" /></label><label>to <input v-model="set.to" aria-label="Highest key" /></label>
          <label>every <input v-model="set.every" aria-label="Semitones from one key to the next" /> st</label>
        </span>
        <span>Velocities</span><span class="keys"><input v-model="set.velocities" class="wide" aria-label="Velocities of the set" /></span>
      </template>
      <template v-if="articulations.length">
        <span>Articulations</span>
        <span class="seg" role="group" aria-label="Articulations rendered">
          <button type="button" :aria-pressed="!all" @click="all = false">As heard</button>
          <button type="button" :aria-pressed="all" @click="all = true">Base and all {{ articulations.length }}</button>
        </span>
      </template>
      <span>File</span>
      <span class="seg" role="group" aria-label="Kind of file">
        <button type="button" :aria-pressed="!flac" @click="flac = false">WAV</button>
        <button type="button" :aria-pressed="flac" @click="flac = true">FLAC</button>
      </span>
      <span>Depth</span>
      <span class="seg" role="group" aria-label="Depth">
        <button v-for="depth in [16, 24, 32]" :key="depth" type="button" :aria-pressed="bits === depth" :disabled="flac && depth === 32" @click="bits = depth">{{ depth }} bit{{ depth === 32 ? ' float' : '' }}</button>
      </span>
      <span>Rate</span>
      <span class="seg" role="group" aria-label="Rate">
        <button v-for="rate in [44100, 48000, 96000, 192000]" :key="rate" type="button" :aria-pressed="rateHz === rate" @click="rateHz = rate">{{ rate / 1000 }} kHz</button>
      </span>
      <template v-if="!isJob">
        <span>Length</span>
        <span class="seg" role="group" aria-label="Length">
          <button type="button" :aria-pressed="toItsEnd" @click="toItsEnd = true">Full tail</button>
          <button type="button" :aria-pressed="!toItsEnd" @click="toItsEnd = false">Visible range</button>
        </span>
      </template>
    </div>
    <p v-if="document.isListening && !isJob" class="muted-now" role="status" data-testid="muted-now">
      Something is muted, soloed or bypassed for now. <label><input v-model="leftOut" type="checkbox" /> Save it as it is heard now, without that</label>
    </p>
    <p v-else-if="document.isListening" class="muted-now" role="status">What is muted for now is in these files all the same.</p>
    <div v-if="progress" class="progress" role="status" data-testid="render-progress">
      <ProgressBar :value="Math.round(((progress.done + progress.part) / Math.max(1, progress.of)) * 100)" :show-value="false" />
      <span>{{ progress.done }} of {{ progress.of }} <span class="muted">{{ progress.file }}</span></span>
    </div>
    <label v-if="isJob" class="keep"><input v-model="keep" type="checkbox" /> Go on when the page is closed</label>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <RenderList :followed="job" @failed="fail" @resumed="goOn" />
    <template #footer>
      <Button v-if="job" label="Cancel" size="small" severity="secondary" @click="cancel" />
      <Button :label="isJob ? 'Render' : 'Save WAV'" size="small" :loading="busy" @click="render" />
    </template>
  </Dialog>
</template>

<style scoped>
.choices { display: grid; grid-template-columns: 80px 1fr; gap: 10px; align-items: center; }
.choices .seg { width: fit-content; }
.keys { display: flex; gap: 8px; align-items: center; }
.keys label { display: flex; gap: 4px; align-items: center; }
.keys input { width: 48px; height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); padding: 0 4px; }
.keys .wide { width: 160px; }
.muted-now label { display: block; margin-top: 4px; font-weight: 600; }
.keep { display: block; margin-top: 10px; }
.progress { display: grid; gap: 4px; margin-top: 12px; }
.problem { color: var(--warn); background: var(--warn-bg); padding: 6px 8px; border-radius: var(--r); }
</style>
