<script setup lang="ts">
/** One of a few: all options side by side, in rows of four where there are many. */
import { computed } from 'vue'

import type { ChoiceView } from '../../engine/generated/ChoiceView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ choice: ChoiceView; units: number[] }>()
const document = useDocument()
const many = computed(() => props.choice.options.length > 5)
const choose = (at: number) => document.edit({ do: 'choose', units: props.units, choice: props.choice.id, at })
</script>

<template>
  <div class="choice" :class="{ many }" :title="choice.help">
    <span class="label">{{ choice.label }}</span>
    <span class="seg" role="group" :aria-label="choice.label">
      <button v-for="(option, at) in choice.options" :key="option" type="button" :aria-pressed="at === choice.at" @click="choose(at)">{{ option }}</button>
    </span>
  </div>
</template>

<style scoped>
.choice { display: flex; flex-wrap: wrap; align-items: center; justify-content: space-between; gap: 2px 8px; min-width: 0; margin-bottom: 5px; }
.label { color: var(--ink-2); white-space: nowrap; }
.many { display: block; }
.seg button { white-space: nowrap; }
.many .seg button { white-space: normal; }
.many .label { display: block; margin-bottom: 2px; }
.many .seg { display: grid; grid-template-columns: repeat(4, 1fr); height: auto; }
.many .seg button { min-height: var(--hit); padding: 0 2px; border-top: 1px solid var(--hair-2); margin-top: -1px; }
.many .seg button:nth-child(4n + 1) { border-left: 0; }
</style>
