<script setup lang="ts">
/** What holds for every note; shown while no strip is selected. */
import { computed, ref } from 'vue'

import SheetView from './SheetView.vue'
import { inkOf } from '../../draw/tokens'
import type { DocumentView } from '../../engine/generated/DocumentView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ view: DocumentView }>()
/** Strips by what they cost, the dearest first. */
const costs = computed(() => {
  const strips = [...props.view.strips].sort((a, b) => b.cost - a.cost)
  const sum = strips.reduce((all, strip) => all + strip.cost, 0)
  return strips.map(({ id, name, cost }) => ({ id, name, cost, share: cost / sum }))
})
const document = useDocument()
const input = ref<HTMLInputElement>()
const problem = ref('')

async function load(event: Event) {
  const chosen = event.target as HTMLInputElement
  const file = chosen.files?.[0]
  if (!file) return
  problem.value = ''
  const why = document.alter({ ask: 'load_scale', file_name: file.name, text: await file.text() })
  document.refusal = ''
  if (why) problem.value = `${file.name}: ${why}`
  chosen.value = ''
}
</script>

<template>
  <header><h2>The whole patch</h2></header>
  <SheetView :sheet="view.sheet" :values="view.values" :choices="view.choices" :units="[]" />
  <section>
    <h3 data-testid="cost">Cost <span>{{ view.cost }} in total{{ view.cost_at }} (1 = one sine voice)</span></h3>
    <div v-for="row in costs" :key="row.id" class="cost"><span class="badge" :style="{ '--c': inkOf(row.id) }">{{ row.id }}</span><span class="clip">{{ row.name }}</span><i><b :style="{ width: `${row.share * 100}%`, background: inkOf(row.id) }" /></i><span>{{ row.cost }}</span></div>
  </section>
  <section>
    <h3>Scale</h3>
    <div class="line">
      <b class="clip">{{ view.scale ?? 'Equal temperament, A4 = 440 Hz' }}</b><span class="spacer" />
      <button type="button" class="btn" title="A Scala scale (.scl), then a keyboard map (.kbm) for it" @click="input?.click()">Load</button>
      <button v-if="view.scale" type="button" class="btn" @click="document.alter({ ask: 'clear_scale' })">Remove</button>
      <input ref="input" type="file" accept=".scl,.kbm" hidden data-testid="scale-file" @change="load" />
    </div>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </section>
  <section v-if="view.tables.length">
    <h3>Imported tables</h3>
    <div v-for="table in view.tables" :key="table.id" class="line">
      <span class="clip">{{ table.name }}</span><span class="muted">used by {{ table.used }}</span><span class="spacer" />
      <button type="button" class="icon-btn" :aria-label="`Remove table ${table.name}`" @click="document.edit({ do: 'remove_table', table: table.id })"><i class="pi pi-times" /></button>
    </div>
  </section>
  <section class="hints">
    <p class="note">The note, unfolded: each strip shows what its operator really puts out from press to tail, and the result below is the same note as it sounds.</p>
    <dl>
      <dt>Click a strip</dt><dd>select it: pitch, sends and envelope appear here</dd>
      <dt>Drag its number</dt><dd>onto another strip to modulate it, onto itself for feedback, onto the black line to be heard; with Shift it changes its role: a carrier becomes a modulator, or back</dd>
      <dt>Shift or Ctrl and click</dt><dd>select several: values, waves and tuning are then set on all</dd>
      <dt>[ and ]</dt><dd>step through the waves while a note sounds; hold O to hear without the selected</dd>
      <dt>Drag a rail</dt><dd>up or down: its index or level</dd>
      <dt>Type in any field</dt><dd>3:2, 2.5 + 0.018, 340 ms, −6 dB, C#3</dd>
      <dt>Space</dt><dd>play the auditioned note</dd>
    </dl>
  </section>
</template>

<style scoped>
header { display: flex; align-items: center; height: 38px; padding: 0 12px; font-size: var(--fs-15); font-weight: 600; }
.line { display: flex; align-items: center; gap: 6px; margin-top: 6px; min-width: 0; }
.cost { display: grid; grid-template-columns: 20px 1fr 80px 34px; gap: 6px; align-items: center; min-height: 20px; }
.cost i { height: 6px; background: var(--hair); }
.cost i b { display: block; height: 6px; }
.cost span:last-child { text-align: right; }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.problem { color: var(--warn); background: var(--warn-bg); padding: 6px 8px; border-radius: var(--r); margin: 6px 0 0; }
.hints p { font-size: var(--fs-13); color: var(--ink-2); margin: 4px 0 8px; line-height: 1.45; }
dl { margin: 0; display: grid; gap: 2px; }
dt { font-weight: 600; }
dd { margin: 0 0 6px; color: var(--ink-2); }
</style>
