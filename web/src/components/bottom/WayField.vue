<script setup lang="ts">
/** What a macro's target is at one end of the macro. Typing sets it, and the other end stays. */
import { nextTick, ref } from 'vue'

import type { LinkView } from '../../engine/generated/LinkView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ link: LinkView; high: boolean }>()
const document = useDocument()
const typing = ref(false)
const typed = ref('')
const problem = ref('')
const input = ref<HTMLInputElement>()
const shown = () => (props.high ? props.link.at_high : props.link.at_low)
const name = () => `${props.link.target} at ${props.high ? '100 %' : '0 %'}`

async function open() {
  typed.value = shown()
  problem.value = ''
  typing.value = true
  await nextTick()
  input.value?.focus()
  input.value?.select()
}
/** Takes what was typed; gives whether it was a value. */
function take(): boolean {
  if (typed.value === shown()) return true
  problem.value = document.alter({ ask: 'type_way', link: props.link.id, high: props.high, text: typed.value }) ?? ''
  document.refusal = ''
  return problem.value === ''
}
function commit() {
  if (take()) typing.value = false
}
function blur() {
  // what is no value is dropped
  if (typing.value) take()
  typing.value = false
  problem.value = ''
}
</script>

<template>
  <span class="end">
    <input v-if="typing" ref="input" v-model="typed" :aria-label="`${name()}, typed`" :aria-invalid="problem !== ''" @keydown.enter.stop.prevent="commit" @keydown.escape.stop.prevent="typing = false" @blur="blur" />
    <button v-else type="button" :aria-label="`${name()}: ${shown()}`" :title="`${name()}: click to type`" @click="open">{{ shown() }}</button>
    <span v-if="problem" class="problem" role="alert">{{ problem }}</span>
  </span>
</template>

<style scoped>
.end { position: relative; min-width: 0; background: var(--sheet); border-radius: var(--r); }
button, input { all: unset; box-sizing: border-box; display: block; width: 100%; min-height: 24px; line-height: 24px; padding: 0 5px; cursor: text; font-weight: 600; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; text-align: right; }
button:focus-visible, input:focus { outline: 1.5px solid var(--ink); }
.problem { position: absolute; z-index: 30; right: 0; bottom: 100%; width: max-content; max-width: 240px; padding: 6px 8px; background: var(--warn-bg); color: var(--warn); border: 1px solid var(--warn); border-radius: var(--r); }
</style>
