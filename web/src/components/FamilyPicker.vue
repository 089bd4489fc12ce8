<script setup lang="ts">
/** A list by families. Choosing is heard at once. */
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
  <div class="picker" :style="{ '--columns': columns }">
    <div class="families" role="listbox" :aria-label="label">
      <div v-for="[family, list] in families" :key="family" class="family" role="group" :aria-label="family">
        <div class="title" aria-hidden="true">{{ family }}</div>
        <button v-for="item in list" :key="item.at" type="button" role="option" class="item" :aria-selected="item.label === chosen" @click="emit('choose', item.at)">
          <CycleLine v-if="item.cycle" :cycle="item.cycle" :width="40" :height="18" />{{ item.label }}
        </button>
      </div>
    </div>
    <div class="foot"><button type="button" class="btn" @click="emit('import')">{{ bring }}</button></div>
  </div>
</template>

<style scoped>
.picker { width: calc(var(--columns) * 170px); max-height: 330px; overflow-y: auto; }
.families { columns: var(--columns); column-gap: 14px; }
.family { break-inside: avoid; margin-bottom: 8px; }
.title { margin: 0 0 2px; font-size: var(--fs-11); color: var(--ink-3); }
.item { display: flex; align-items: center; gap: 8px; width: 100%; min-height: 24px; padding: 0 4px; border: 0; border-radius: var(--r); background: none; text-align: left; cursor: pointer; white-space: nowrap; }
.item:hover { background: var(--field-hover); }
.item[aria-selected='true'] { background: var(--ink); color: var(--on-ink); font-weight: 600; }
.foot { padding-top: 4px; }
</style>
