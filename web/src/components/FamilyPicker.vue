<script setup lang="ts">
/** A list by families. Choosing is heard at once; the list stays open for the next. */
import { computed } from 'vue'

import CycleLine from './wave/CycleLine.vue'

const props = defineProps<{ items: { label: string; family: string; cycle?: number[] }[]; chosen: string; label: string; columns: number; bring: string }>()
const emit = defineEmits<{ choose: [at: number]; import: [] }>()
const families = computed(() => {
  const found = new Map<string, { at: number; label: string; cycle?: number[] }[]>()
  props.items.forEach(({ family, ...item }, at) => found.set(family, [...(found.get(family) ?? []), { ...item, at }]))
  return [...found]
})
</script>

<template>
  <div class="picker" role="listbox" :aria-label="label" :style="{ '--columns': columns }">
    <section v-for="[family, list] in families" :key="family">
      <h4>{{ family }}</h4>
      <button v-for="item in list" :key="item.at" type="button" role="option" class="item" :aria-selected="item.label === chosen" @click="emit('choose', item.at)">
        <CycleLine v-if="item.cycle" :cycle="item.cycle" :width="40" :height="18" />{{ item.label }}
      </button>
    </section>
    <footer><button type="button" class="btn" @click="emit('import')">{{ bring }}</button></footer>
  </div>
</template>

<style scoped>
.picker { columns: var(--columns); column-gap: 14px; width: calc(var(--columns) * 170px); max-height: 330px; overflow-y: auto; }
section { break-inside: avoid; margin-bottom: 8px; }
h4 { margin: 0 0 2px; font-size: var(--fs-11); color: var(--ink-3); font-weight: 400; }
.item { display: flex; align-items: center; gap: 8px; width: 100%; min-height: 24px; padding: 0 4px; border: 0; border-radius: var(--r); background: none; text-align: left; cursor: pointer; white-space: nowrap; }
.item:hover { background: var(--field-hover); }
.item[aria-selected='true'] { background: var(--ink); color: var(--on-ink); font-weight: 600; }
footer { column-span: all; padding-top: 4px; }
</style>
