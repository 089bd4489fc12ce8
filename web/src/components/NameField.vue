<script setup lang="ts">
/** A name that is read as text and typed over when clicked; `twice` leaves the first click to what it stands in. */
import { nextTick, ref } from 'vue'

import { useDocument } from '../stores/document'

const props = defineProps<{ name: string; label: string; twice?: boolean; most?: number }>()
const emit = defineEmits<{ rename: [name: string] }>()
const document = useDocument()
const typing = ref(false)
const typed = ref('')
const input = ref<HTMLInputElement>()

async function begin() {
  typed.value = props.name
  typing.value = true
  await nextTick()
  input.value?.select()
}
function commit() {
  if (!typing.value) return
  typing.value = false
  const name = typed.value.trim()
  if (name && name !== props.name) emit('rename', name)
}
</script>

<template>
  <input data-own-escape
    v-if="typing" ref="input" v-model="typed" class="name" :maxlength="most ?? document.rules?.unit_name" :aria-label="label"
    @keydown.enter.stop="commit" @keydown.escape.stop="typing = false" @blur="commit"
  />
  <button v-else class="name" type="button" :aria-label="`${label}: ${name}. Rename`" :title="`${name} (${twice ? 'double click or F2' : 'click'} to rename)`" @click="twice || begin()" @dblclick.stop="twice && begin()" @keydown.f2.prevent="begin" @keydown.enter.stop.prevent="begin">{{ name }}</button>
</template>

<style scoped>
.name { background: none; border: 0; border-bottom: 1px solid transparent; padding: 0 2px; font: inherit; color: inherit; cursor: text; text-align: left; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; min-height: 20px; }
button.name:hover { border-bottom-color: var(--hair-2); }
input.name { border-bottom-color: var(--ink); outline: none; width: 100%; }
</style>
