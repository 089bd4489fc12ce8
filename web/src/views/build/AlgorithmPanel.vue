<script setup lang="ts">
/** Arrangements of the operators there are: click one to hear it in place, take it or go back; keep one's own. */
import { useStorage } from '@vueuse/core'
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'

import MiniRails from '../../components/score/MiniRails.vue'
import type { ArrangementView } from '../../engine/generated/ArrangementView'
import { useDocument } from '../../stores/document'

const emit = defineEmits<{ close: [] }>()
const document = useDocument()
const list = ref<ArrangementView[]>([])
const tried = ref(-1)
const carriers = ref(0)
const kept = useStorage<{ name: string; text: string }[]>('zolvik-algorithms', [])
/** Operators there are, as the core counts them. */
const count = ref(0)
const strips = computed(() => document.view?.strips.length ?? 0)

function ask() {
  const answer = document.ask({ ask: 'arrangements' })
  list.value = answer.is === 'arrangements' ? answer.list : []
  count.value = answer.is === 'arrangements' ? answer.operators : 0
  tried.value = -1
}
onMounted(ask)
watch(strips, ask)
// an edit or undo elsewhere ends the trial
watch(() => document.view?.trying, (trying) => {
  if (!trying) ask()
})
onUnmounted(() => {
  if (document.view?.trying) document.alter({ ask: 'end_trial', keep: true })
})

const choices = computed(() => [...new Set(list.value.map((a) => a.carriers))].sort((a, b) => b - a))
const shown = computed(() => list.value.map((arrangement, at) => ({ arrangement, at })).filter(({ arrangement }) => carriers.value === 0 || arrangement.carriers === carriers.value))
function attempt(at: number) {
  if (document.alter({ ask: 'try_arrangement', at })) return
  tried.value = at
}
function end(keep: boolean) {
  document.alter({ ask: 'end_trial', keep })
}
function step(event: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 4, ArrowUp: -4 }[event.key]
  if (by === undefined || shown.value.length === 0) return
  event.preventDefault()
  const now = shown.value.findIndex(({ at }) => at === tried.value)
  const next = shown.value[Math.max(0, Math.min(shown.value.length - 1, now + by))]
  if (next) attempt(next.at)
}
function keep() {
  const answer = document.ask({ ask: 'keep_arrangement' })
  if (answer.is === 'text') kept.value = [...kept.value, { name: `${count.value} operators, ${kept.value.length + 1}`, text: answer.text }]
}
function lay(text: string) {
  document.alter({ ask: 'lay_arrangement', text })
}
</script>

<template>
  <div class="panel">
    <header>
      <h2 class="title">Algorithms</h2><span class="muted">{{ list.length }} for {{ count }} operators</span>
      <span class="spacer" /><button type="button" class="icon-btn" aria-label="Close algorithms" @click="emit('close')"><i class="pi pi-times" /></button>
    </header>
    <div class="trial" :class="{ on: document.view?.trying }">
      <template v-if="document.view?.trying">
        <h2>Trying</h2><span class="spacer" />
        <button type="button" class="btn primary" @click="end(true)">Apply</button>
        <button type="button" class="btn" @click="end(false)">Cancel</button>
      </template>
      <span v-else class="note">Click one: it sounds in place. Routes that stay keep their depth.</span>
    </div>
    <div v-if="choices.length > 1" class="filter">
      <span class="muted">Carriers</span>
      <span class="seg" role="group" aria-label="Carriers">
        <button type="button" :aria-pressed="carriers === 0" @click="carriers = 0">All</button>
        <button v-for="n in choices" :key="n" type="button" :aria-pressed="carriers === n" @click="carriers = n">{{ n }}</button>
      </span>
    </div>
    <div class="grid" role="listbox" aria-label="Arrangements" tabindex="0" @keydown="step">
      <button
        v-for="{ arrangement, at } in shown" :key="at" type="button" role="option" tabindex="-1" class="choice" :aria-selected="tried === at" :class="{ present: arrangement.present }"
        :title="arrangement.present ? 'As it is' : `${arrangement.carriers} carriers`" @click="attempt(at)"
      >
        <MiniRails :rows="arrangement.rows" :rails="arrangement.rails" />
      </button>
    </div>
    <footer>
      <div class="line"><h3>My own</h3><span class="spacer" /><button type="button" class="btn" @click="keep">Keep this arrangement</button></div>
      <div v-for="(own, i) in kept" :key="own.name" class="line own">
        <button type="button" class="link-btn" @click="lay(own.text)">{{ own.name }}</button><span class="spacer" />
        <button type="button" class="icon-btn" :aria-label="`Forget ${own.name}`" @click="kept = kept.filter((_, at) => at !== i)"><i class="pi pi-times" /></button>
      </div>
    </footer>
  </div>
</template>

<style scoped>
.panel { display: grid; grid-template-rows: auto auto auto minmax(0, 1fr) auto; height: 100%; }
header { display: flex; align-items: baseline; gap: 8px; padding: 9px 12px 4px; }
.title { font-size: var(--fs-15); font-weight: 600; }
.trial { display: flex; align-items: center; gap: 6px; min-height: 34px; padding: 0 12px; border-top: 1px solid var(--hair); border-bottom: 1px solid var(--hair); }
.trial.on { background: var(--select); }
.trial .note { color: var(--ink-2); }
.filter { display: flex; align-items: center; gap: 8px; padding: 6px 12px 0; }
.filter .seg button { padding: 0 6px; min-width: var(--hit); }
.grid { display: grid; grid-template-columns: repeat(4, 1fr); gap: 6px; padding: 8px 12px; overflow-y: auto; align-content: start; grid-auto-rows: max-content; grid-row: 4; }
.choice { background: var(--sheet); border: 1px solid var(--hair-2); border-radius: var(--r); padding: 4px 2px; cursor: pointer; display: grid; place-items: center; min-height: 44px; }
.choice:hover { border-color: var(--ink); }
.choice.present { border-style: dashed; border-color: var(--ink-2); }
.choice[aria-selected='true'] { outline: 2px solid var(--ink); background: var(--select); }
footer { padding: 6px 12px 8px; border-top: 1px solid var(--hair); grid-row: 5; max-height: 150px; overflow-y: auto; }
.line { display: flex; align-items: center; gap: 6px; }
h3 { margin: 0; font-size: var(--fs-12); }
</style>
