<script setup lang="ts">
/** What holds for every note; shown while no strip is selected. */
import { computed, ref } from 'vue'

import ValueField from '../../components/field/ValueField.vue'
import type { DocumentView } from '../../engine/generated/DocumentView'
import type { Quality } from '../../engine/generated/Quality'
import { useDocument } from '../../stores/document'

const props = defineProps<{ view: DocumentView }>()
const values = computed(() => props.view.values.filter((v) => v.address.param.startsWith('voice.')))
const document = useDocument()
const QUALITIES: Quality[] = ['1x', '2x', '4x', '8x']
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
  <header>Voice</header>
  <section>
    <h3>Whole patch</h3>
    <div class="two"><ValueField v-for="v in values" :key="v.address.param" :value="v" /></div>
    <div class="line">
      <span class="muted">Quality</span>
      <span class="seg" role="group" aria-label="Quality">
        <button v-for="q in QUALITIES" :key="q" type="button" :aria-pressed="view.quality === q" title="Computed at so many times the rate: cleaner, and as much dearer" @click="document.edit({ do: 'set_quality', quality: q })">{{ q.replace('x', ' ×') }}</button>
      </span>
    </div>
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
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
.line { display: flex; align-items: center; gap: 6px; margin-top: 6px; min-width: 0; }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.problem { color: var(--warn); background: var(--warn-bg); padding: 6px 8px; border-radius: var(--r); margin: 6px 0 0; }
.hints p { font-size: var(--fs-13); color: var(--ink-2); margin: 4px 0 8px; line-height: 1.45; }
dl { margin: 0; display: grid; gap: 2px; }
dt { font-weight: 600; }
dd { margin: 0 0 6px; color: var(--ink-2); }
</style>
