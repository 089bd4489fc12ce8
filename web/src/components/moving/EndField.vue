<script setup lang="ts">
/** One end of a link: the lowest or highest value it comes to. Typing sets it, and the other end stays. */
import { nextTick, ref } from 'vue'

import type { LinkView } from '../../engine/generated/LinkView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ link: LinkView; high: boolean }>()
const document = useDocument()
const typing = ref(false)
const typed = ref('')
const problem = ref('')
const input = ref<HTMLInputElement>()
const shown = () => (props.high ? props.link.high : props.link.low)

async function open(begin?: string) {
  typed.value = begin ?? shown()
  problem.value = ''
  typing.value = true
  await nextTick()
  input.value?.focus()
  if (begin === undefined) input.value?.select()
}
function commit() {
  const why = typed.value === shown() ? undefined : document.alter({ ask: 'type_end', link: props.link.id, high: props.high, text: typed.value })
  document.refusal = ''
  problem.value = why ?? ''
  if (!why) typing.value = false
}
function blur() {
  // what is no value is dropped
  if (typing.value && typed.value !== shown()) document.alter({ ask: 'type_end', link: props.link.id, high: props.high, text: typed.value })
  typing.value = false
  problem.value = ''
}
</script>

<template>
  <div class="end">
    <span class="label">{{ high ? 'Highest' : 'Lowest' }}</span>
    <input v-if="typing" ref="input" v-model="typed" :aria-label="`${high ? 'Highest' : 'Lowest'} of ${link.target}, typed`" :aria-invalid="problem !== ''" @keydown.enter.stop.prevent="commit" @keydown.escape.stop.prevent="typing = false" @blur="blur" />
    <button v-else type="button" :aria-label="`${high ? 'Highest' : 'Lowest'} of ${link.target}: ${shown()}`" :title="`${shown()}: click to type`" @click="open()">{{ shown() }}</button>
    <span v-if="problem" class="problem" role="alert">{{ problem }}</span>
  </div>
</template>

<style scoped>
.end { position: relative; background: var(--field); border-radius: var(--r); padding: 3px 6px; min-width: 0; min-height: 38px; }
.label { display: block; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); }
button, input { all: unset; display: block; width: 100%; min-height: 18px; cursor: text; font-weight: 600; font-size: var(--fs-12); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
button:focus-visible, input:focus { outline: 1.5px solid var(--ink); }
.problem { position: absolute; z-index: 30; right: 0; top: 100%; width: max-content; max-width: 240px; padding: 6px 8px; background: var(--warn-bg); color: var(--warn); border: 1px solid var(--warn); border-radius: var(--r); }
</style>
