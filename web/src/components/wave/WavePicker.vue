<script setup lang="ts">
/** All waves by family. Choosing one is heard at once; the list stays open for the next. */
import { computed } from 'vue'

import CycleLine from './CycleLine.vue'
import { useWaves } from '../../composables/useWaves'
import { useDocument } from '../../stores/document'

const props = defineProps<{ chosen: string; units: number[] }>()
const emit = defineEmits<{ import: [] }>()
const document = useDocument()
const waves = useWaves()
const families = computed(() => {
  const found = new Map<string, { at: number; label: string; cycle: number[] }[]>()
  waves.value.forEach(({ label, family, cycle }, at) => found.set(family, [...(found.get(family) ?? []), { at, label, cycle }]))
  return [...found]
})
const choose = (at: number) => document.alter({ ask: 'choose_wave', units: props.units, at })
</script>

<template>
  <div class="picker" role="listbox" aria-label="Waves">
    <section v-for="[family, list] in families" :key="family">
      <h4>{{ family }}</h4>
      <button v-for="wave in list" :key="wave.at" type="button" role="option" class="wave" :aria-selected="wave.label === chosen" @click="choose(wave.at)">
        <CycleLine :cycle="wave.cycle" :width="40" :height="18" />{{ wave.label }}
      </button>
    </section>
    <footer><button type="button" class="btn" @click="emit('import')">Import a WAV as table</button></footer>
  </div>
</template>

<style scoped>
.picker { columns: 4; column-gap: 14px; width: 700px; max-height: 330px; overflow-y: auto; }
section { break-inside: avoid; margin-bottom: 8px; }
h4 { margin: 0 0 2px; font-size: var(--fs-11); color: var(--ink-3); font-weight: 400; }
.wave { display: flex; align-items: center; gap: 8px; width: 100%; min-height: 24px; padding: 0 4px; border: 0; border-radius: var(--r); background: none; text-align: left; cursor: pointer; white-space: nowrap; }
.wave:hover { background: var(--field-hover); }
.wave[aria-selected='true'] { background: var(--ink); color: var(--on-ink); font-weight: 600; }
footer { column-span: all; padding-top: 4px; }
</style>
