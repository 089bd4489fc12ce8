<script setup lang="ts">
/** All recordings by family. Choosing one is heard at once; the list stays open for the next. */
import { computed, onMounted, ref } from 'vue'

import type { SoundChoice } from '../../engine/generated/SoundChoice'
import { useDocument } from '../../stores/document'

const props = defineProps<{ chosen: string; units: number[] }>()
const emit = defineEmits<{ import: [] }>()
const document = useDocument()
const list = ref<SoundChoice[]>([])
onMounted(() => {
  const answer = document.ask({ ask: 'sounds' })
  if (answer.is === 'sounds') list.value = answer.list
})
const families = computed(() => {
  const found = new Map<string, { at: number; label: string }[]>()
  list.value.forEach(({ label, family }, at) => found.set(family, [...(found.get(family) ?? []), { at, label }]))
  return [...found]
})
const choose = (at: number) => document.alter({ ask: 'choose_sound', units: props.units, at })
</script>

<template>
  <div class="picker" role="listbox" aria-label="Recordings">
    <section v-for="[family, sounds] in families" :key="family">
      <h4>{{ family }}</h4>
      <button v-for="sound in sounds" :key="sound.at" type="button" role="option" class="sound" :aria-selected="sound.label === chosen" @click="choose(sound.at)">{{ sound.label }}</button>
    </section>
    <footer><button type="button" class="btn" @click="emit('import')">Import WAV, FLAC, AIFF or OGG</button></footer>
  </div>
</template>

<style scoped>
.picker { columns: 3; column-gap: 14px; width: 420px; max-height: 330px; overflow-y: auto; }
section { break-inside: avoid; margin-bottom: 8px; }
h4 { margin: 0 0 2px; font-size: var(--fs-11); color: var(--ink-3); font-weight: 400; }
.sound { display: block; width: 100%; min-height: 24px; padding: 0 4px; border: 0; border-radius: var(--r); background: none; text-align: left; cursor: pointer; white-space: nowrap; }
.sound:hover { background: var(--field-hover); }
.sound[aria-selected='true'] { background: var(--ink); color: var(--on-ink); font-weight: 600; }
footer { column-span: all; padding-top: 4px; }
</style>
