<script setup lang="ts">
/** A value of the chosen notes: one click types. */
import { nextTick, ref } from 'vue'

import type { NoteField } from '../../engine/generated/NoteField'
import { useDocument } from '../../stores/document'

const props = defineProps<{ label: string; field: NoteField; shown: string; notes: number[] }>()
const document = useDocument()
const typing = ref(false)
const typed = ref('')
const problem = ref('')
const input = ref<HTMLInputElement>()
async function open() {
  typed.value = props.shown.replace(/ beat$/, '')
  problem.value = ''
  typing.value = true
  await nextTick()
  input.value?.focus()
  input.value?.select()
}
function take(): boolean {
  problem.value = document.alter({ ask: 'type_note', notes: props.notes, field: props.field, text: typed.value }) ?? ''
  document.refusal = ''
  return problem.value === ''
}
function commit() {
  if (take()) typing.value = false
}
function blur() {
  if (typing.value) take()
  typing.value = false
  problem.value = ''
}
</script>

<template>
  <div class="field">
    <span class="label">{{ label }}</span>
    <input v-if="typing" ref="input" v-model="typed" :aria-label="`${label} of the notes, typed`" :aria-invalid="problem !== ''" @keydown.enter.stop.prevent="commit" @keydown.escape.stop.prevent="typing = false" @blur="blur" />
    <button v-else type="button" :aria-label="`${label} of the notes: ${shown}`" :title="`${label}: click to type`" @click="open">{{ shown }}</button>
    <span v-if="problem" class="problem" role="alert">{{ problem }}</span>
  </div>
</template>

<style scoped>
.field { position: relative; background: var(--field); border-radius: var(--r); padding: 2px 6px; min-width: 0; }
.label { display: block; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); }
button, input { all: unset; box-sizing: border-box; display: block; width: 100%; min-height: 24px; line-height: 24px; cursor: text; font-weight: 600; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
button:focus-visible, input:focus { outline: 1.5px solid var(--ink); }
.problem { position: absolute; z-index: 30; left: 0; top: 100%; width: max-content; max-width: 240px; padding: 6px 8px; background: var(--warn-bg); color: var(--warn); border: 1px solid var(--warn); border-radius: var(--r); }
</style>
