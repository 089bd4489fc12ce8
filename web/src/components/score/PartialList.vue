<script setup lang="ts">
/** Why it sounds so, in words, in place of the inspector: the partials at the cursor, and what makes each. */
import { useStorage } from '@vueuse/core'
import { computed } from 'vue'

import { inkOf } from '../../draw/tokens'
import type { ExplainedView } from '../../engine/generated/ExplainedView'
import type { ExplanationView } from '../../engine/generated/ExplanationView'

const props = defineProps<{ explanation: ExplanationView }>()
const emit = defineEmits<{ close: [] }>()

type Column = 'hz' | 'by' | 'predicted' | 'measured'
const COLUMNS: { id: Column; label: string; of: (partial: ExplainedView) => number }[] = [
  { id: 'hz', label: 'Partial', of: (partial) => partial.hz },
  { id: 'by', label: 'made by', of: (partial) => partial.by },
  { id: 'predicted', label: 'theory', of: (partial) => -partial.predicted_db },
  { id: 'measured', label: 'heard', of: (partial) => -(partial.measured_db ?? -999) },
]
const sorted = useStorage<{ by: Column; down: boolean }>('zolvik-why-sorted', { by: 'predicted', down: false })
const rows = computed(() => {
  const { of } = COLUMNS.find((column) => column.id === sorted.value.by) ?? COLUMNS[0]
  const turn = sorted.value.down ? -1 : 1
  return [...props.explanation.partials].sort((a, b) => turn * (of(a) - of(b)))
})
const sort = (by: Column) => (sorted.value = { by, down: sorted.value.by === by && !sorted.value.down })
const order = (by: Column) => (sorted.value.by !== by ? 'none' : sorted.value.down ? 'descending' : 'ascending')
</script>

<template>
  <div class="list" data-testid="partials">
    <header><h2>Partials explained</h2><span class="muted">at the cursor</span><button type="button" class="icon-btn" aria-label="Close the list" title="Back to the inspector" @click="emit('close')"><i class="pi pi-times" /></button></header>
    <table>
      <thead>
        <tr>
          <th v-for="column in COLUMNS" :key="column.id" :aria-sort="order(column.id)"><button type="button" :title="`Sort by ${column.label}`" :aria-label="`Sort by ${column.label}`" @click="sort(column.id)">{{ column.label }}<i v-if="sorted.by === column.id" class="pi" :class="sorted.down ? 'pi-angle-up' : 'pi-angle-down'" /></button></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="partial in rows" :key="`${partial.hz} ${partial.words}`" :title="partial.mirrored_why || undefined">
          <td>{{ partial.heard }}</td>
          <td class="by"><i :style="{ background: inkOf(partial.by) }" />{{ partial.words }}<span v-if="partial.meeting > 1" class="muted"> and {{ partial.meeting - 1 }} more</span><span v-if="partial.mirrored" class="muted"> {{ partial.mirrored }}</span></td>
          <td>{{ partial.predicted }}</td>
          <td>{{ partial.measured }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="explanation.partials.length === 0" class="muted">Nothing sounds at the cursor that theory explains.</p>
    <p v-for="words in explanation.idle" :key="words" class="muted" data-testid="idle">{{ words }}.</p>
    <p v-if="explanation.beyond.length" class="muted">Without a closed theory: {{ explanation.beyond.join(', ') }}. What it adds is only measured.</p>
  </div>
</template>

<style scoped>
.list { padding: 8px 12px; }
header { display: flex; align-items: baseline; gap: 8px; margin-bottom: 4px; }
h2 { font-size: 15px; margin: 0; }
header .icon-btn { margin-left: auto; }
table { border-collapse: collapse; width: 100%; }
th { text-align: left; font-weight: 400; padding: 0; }
th button { border: 0; background: none; padding: 2px 0; min-height: 24px; color: var(--ink-3); font-size: var(--fs-11); cursor: pointer; white-space: nowrap; }
td { padding: 2px 5px 2px 0; white-space: nowrap; font-size: var(--fs-12); border-top: 1px solid var(--hair); }
td.by { position: relative; padding-left: 14px; white-space: normal; line-height: 15px; }
td.by i { position: absolute; left: 0; top: 6px; }
/* what is to be known of it stands below what makes it */
td .muted { display: block; font-size: var(--fs-11); line-height: 13px; }
td i { display: inline-block; width: 8px; height: 8px; border-radius: 50%; margin-right: 6px; }
p { margin: 6px 0 0; }
</style>
