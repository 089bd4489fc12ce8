<script setup lang="ts">
/** A written value that one click opens for typing. What is typed is taken by whoever has it; a reason why not stands beside it. */
import { nextTick, ref } from 'vue'

const props = defineProps<{ shown: string; name: string; take: (typed: string) => string | undefined; begin?: string }>()
const typing = ref(false)
const typed = ref('')
const problem = ref('')
const input = ref<HTMLInputElement>()
const button = ref<HTMLButtonElement>()
const first = () => props.begin ?? props.shown

async function open() {
  typed.value = first()
  problem.value = ''
  typing.value = true
  await nextTick()
  input.value?.focus()
  input.value?.select()
}
/** Takes what was typed; gives whether it was a value. */
function taken(): boolean {
  problem.value = typed.value === first() ? '' : (props.take(typed.value) ?? '')
  return problem.value === ''
}
/** Closed again, it keeps the focus. */
async function close() {
  typing.value = false
  problem.value = ''
  await nextTick()
  button.value?.focus()
}
function commit() {
  if (taken()) void close()
}
function blur() {
  // what is no value is dropped
  if (typing.value) taken()
  typing.value = false
  problem.value = ''
}
</script>

<template>
  <span class="typed">
    <input v-if="typing" ref="input" v-model="typed" data-own-escape :aria-label="`${name}, typed`" :aria-invalid="problem !== ''" @keydown.enter.stop.prevent="commit" @keydown.escape.stop.prevent="close" @blur="blur" />
    <button v-else ref="button" type="button" :aria-label="`${name}: ${shown}`" :title="`${name}, ${shown}: click to type`" @click="open" data-typed @keydown.f2.stop.prevent="open" @keydown.space.prevent @keyup.space.prevent>{{ shown }}</button>
    <span v-if="problem" class="problem" role="alert">{{ problem }}</span>
  </span>
</template>

<style scoped>
.typed { position: relative; display: block; min-width: 0; }
button, input { all: unset; box-sizing: border-box; display: block; width: 100%; min-height: var(--hit); line-height: var(--hit); cursor: text; font-weight: 600; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; text-align: inherit; }
button:focus-visible, input:focus { outline: 1.5px solid var(--ink); }
.problem { position: absolute; z-index: 30; right: 0; bottom: 100%; width: max-content; max-width: 240px; padding: 6px 8px; background: var(--warn-bg); color: var(--warn); border: 1px solid var(--warn); border-radius: var(--r); white-space: normal; font-weight: 400; text-align: left; }
</style>
