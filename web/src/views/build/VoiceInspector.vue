<script setup lang="ts">
/** What holds for every note; shown while no strip is selected. */
import { computed } from 'vue'

import ValueField from '../../components/field/ValueField.vue'
import type { DocumentView } from '../../engine/generated/DocumentView'

const props = defineProps<{ view: DocumentView }>()
const values = computed(() => props.view.values.filter((v) => v.address.param.startsWith('voice.')))
</script>

<template>
  <header>Voice</header>
  <section>
    <h3>Whole patch</h3>
    <div class="two"><ValueField v-for="v in values" :key="v.address.param" :value="v" /></div>
  </section>
  <section class="hints">
    <p class="note">The note, unfolded: each strip shows what its operator really puts out from press to tail, and the result below is the same note as it sounds.</p>
    <dl>
      <dt>Click a strip</dt><dd>select it: pitch, sends and envelope appear here</dd>
      <dt>Drag its number</dt><dd>onto another strip to modulate it, onto itself for feedback, onto the black line to be heard</dd>
      <dt>Drag a rail</dt><dd>up or down: its index or level</dd>
      <dt>Type in any field</dt><dd>3:2, 2.5 + 0.018, 340 ms, −6 dB, C#3</dd>
      <dt>Space</dt><dd>play the auditioned note</dd>
    </dl>
  </section>
</template>

<style scoped>
header { display: flex; align-items: center; height: 38px; padding: 0 12px; font-size: var(--fs-15); font-weight: 600; }
section { padding: 7px 12px 9px; border-top: 1px solid var(--hair); }
h3 { margin: 0 0 4px; font-size: var(--fs-12); }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
.hints p { font-size: var(--fs-13); color: var(--ink-2); margin: 4px 0 8px; line-height: 1.45; }
dl { margin: 0; display: grid; gap: 2px; }
dt { font-weight: 600; }
dd { margin: 0 0 6px; color: var(--ink-2); }
</style>
