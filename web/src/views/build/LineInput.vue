<script setup lang="ts">
/** Strips typed as text: what they will be is said before Enter makes them. */
import { computed, ref } from 'vue'

import { isCommand } from '../../composables/keys/useShortcuts'
import { useDocument } from '../../stores/document'

const document = useDocument()
const text = ref('')
const failed = ref('')
const read = computed(() => {
  if (!text.value.trim()) return undefined
  const answer = document.ask({ ask: 'line', text: text.value })
  return answer.is === 'line' ? answer : undefined
})
const said = computed(() => failed.value || read.value?.problem || (read.value?.strips ?? []).map((strip) => strip.map((word) => word.meaning).join(', ')).join('; '))
function take(event: KeyboardEvent) {
  if (!text.value.trim()) return
  failed.value = document.alter({ ask: 'take_line', text: text.value, units: document.units }) ?? ''
  // with Shift the line stays, for one more like it
  if (!failed.value && !event.shiftKey) text.value = ''
  document.refusal = ''
}
/** What was just added is what is selected: it is grouped from here too. */
function group(event: KeyboardEvent) {
  if (!isCommand(event) || event.key.toLowerCase() !== 'g' || text.value.trim() || document.selected === null) return
  event.preventDefault()
  event.stopPropagation()
  document.edit({ do: 'group_units', units: document.units })
}
</script>

<template>
  <label class="line" :class="{ wrong: failed || read?.problem }">
    <span class="muted">Add</span>
    <input v-model="text" aria-label="Strips as text" placeholder="saw x0.5 -14dB 30L" spellcheck="false" @input="failed = ''" @keydown.enter.prevent="take" @keydown.escape.stop="($event.target as HTMLInputElement).blur()" @keydown="group" />
    <span v-if="said" class="said" :title="said" role="status">{{ said }}</span>
    <kbd v-else>Enter</kbd>
  </label>
</template>

<style scoped>
.line { flex: 1 1 200px; min-width: 160px; display: flex; align-items: center; gap: 8px; height: 26px; padding: 0 6px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--paper); }
.line:focus-within { border-color: var(--ink); }
input { flex: 1 1 120px; min-width: 80px; border: 0; background: none; outline: none; font-weight: 600; }
.said { flex: 0 1 auto; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; color: var(--ink-2); font-size: var(--fs-11); }
.wrong { border-color: var(--warn); }
.wrong .said { color: var(--warn); }
kbd { font: inherit; font-size: var(--fs-11); border: 1px solid var(--hair-2); border-radius: var(--r); padding: 0 4px; color: var(--ink-3); }
</style>
