<script setup lang="ts">
/** Why it sounds so, in words: the strongest partials at the cursor and what makes each. */
import { inkOf } from '../../draw/tokens'
import type { ExplanationView } from '../../engine/generated/ExplanationView'

defineProps<{ explanation: ExplanationView }>()
const SHOWN = 14
</script>

<template>
  <div class="list" data-testid="partials">
    <table>
      <thead><tr><th>Partial</th><th>made by</th><th>predicted</th><th>measured</th><th /></tr></thead>
      <tbody>
        <tr v-for="partial in explanation.partials.slice(0, SHOWN)" :key="`${partial.hz} ${partial.words}`">
          <td>{{ partial.heard }}</td>
          <td><i :style="{ background: inkOf(partial.by) }" />{{ partial.words }}<span v-if="partial.meeting > 1" class="muted"> and {{ partial.meeting - 1 }} more</span></td>
          <td>{{ partial.predicted }}</td><td>{{ partial.measured }}</td>
          <td class="muted">{{ partial.mirrored }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="explanation.partials.length === 0" class="muted">Nothing sounds at the cursor that theory explains.</p>
    <p v-if="explanation.beyond.length" class="muted">Without a closed theory: {{ explanation.beyond.join(', ') }}. What it adds is only measured.</p>
  </div>
</template>

<style scoped>
.list { max-width: 560px; }
table { border-collapse: collapse; }
th { text-align: left; font-weight: 400; color: var(--ink-3); font-size: var(--fs-11); padding: 0 14px 2px 0; }
td { padding: 2px 14px 2px 0; white-space: nowrap; }
td i { display: inline-block; width: 8px; height: 8px; border-radius: 50%; margin-right: 6px; }
p { margin: 6px 0 0; }
</style>
