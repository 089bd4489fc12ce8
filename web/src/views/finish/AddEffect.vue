<script setup lang="ts">
/** Adds an effect to a chain: all kinds, found by typing too. */
import { computed, nextTick, ref } from 'vue'

import Popover from '../../components/OwnPopover.vue'
import type { ChainView } from '../../engine/generated/ChainView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ chain: ChainView }>()
const document = useDocument()
const menu = ref<InstanceType<typeof Popover>>()
const input = ref<HTMLInputElement>()
const typed = ref('')
const kinds = computed(() => document.effectKinds.filter(({ label, help }) => `${label} ${help}`.toLowerCase().includes(typed.value.trim().toLowerCase())))
async function open(event: Event) {
  typed.value = ''
  menu.value?.toggle(event)
  await nextTick()
  input.value?.focus()
}
function add(kind: (typeof kinds.value)[number]['kind'] | undefined) {
  if (!kind) return
  menu.value?.hide()
  document.edit({ do: 'add_effect', chain: props.chain.id, kind, at: null })
}
</script>

<template>
  <button type="button" class="link-btn add" :aria-label="`Add an effect to ${chain.name}`" :disabled="chain.full" :title="chain.full ? 'Eight effects are all a chain holds; remove one or use another chain' : `Adds an effect to ${chain.name}`" aria-haspopup="true" @click="open">Add</button>
  <Popover ref="menu" :pt="{ root: { 'aria-label': 'Effects to add' } }">
    <div class="menu" role="group" aria-label="Add an effect">
      <input ref="input" v-model="typed" class="find" placeholder="Find an effect" aria-label="Find an effect" @keydown.enter.prevent="add(kinds[0]?.kind)">
      <div class="kinds">
        <button v-for="{ kind, label, help } in kinds" :key="kind" type="button" class="btn" :title="help" @click="add(kind)">{{ label }}</button>
      </div>
      <p v-if="kinds[0]" class="muted help">{{ kinds.length === 1 ? kinds[0].help : 'Every effect arrives gently; Enter takes the first.' }}</p>
      <p v-else class="muted help">No match.</p>
    </div>
  </Popover>
</template>

<style scoped>
.add:disabled { opacity: 0.4; cursor: default; }
.menu { width: 300px; display: grid; gap: 6px; }
.find { height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); padding: 0 6px; }
.kinds { display: grid; grid-template-columns: repeat(3, 1fr); gap: 4px; }
.kinds .btn { justify-content: start; }
.help { margin: 0; font-size: var(--fs-11); }
</style>
