<script setup lang="ts">
/** Finds a value by its name and links the source with it: type a part of it, arrows, Enter. */
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import { inkOf } from '../../draw/tokens'
import type { Target } from '../../engine/generated/Target'
import { useDocument } from '../../stores/document'

const props = defineProps<{ source: number }>()
const emit = defineEmits<{ done: [] }>()
const document = useDocument()
const text = ref('')
const at = ref(0)
const input = ref<HTMLInputElement>()
const list = ref<HTMLElement>()
const targets = computed<Target[]>(() => {
  const answer = document.ask({ ask: 'targets', text: text.value, source: props.source })
  return answer.is === 'targets' ? answer.list : []
})
watch(text, () => (at.value = 0))
onMounted(() => input.value?.focus())

function take(target: Target | undefined) {
  if (!target) return
  // named by itself: it is meant alone, whatever is selected in Build
  document.alter({ ask: 'edit', edit: { do: 'add_links', from: props.source, to: [target.address] }, units: [], gesture: null })
  emit('done')
  // the amount of the link, new or there already, can be typed at once
  const link = document.linkTo(target.address, props.source)
  void nextTick(() => window.document.querySelector<HTMLElement>(`[data-testid=links] [data-link='${link?.id}'] [role=spinbutton]`)?.focus())
}
async function key(event: KeyboardEvent) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (step) at.value = Math.max(0, Math.min(targets.value.length - 1, at.value + step))
  else if (event.key === 'Enter') take(targets.value[at.value])
  else if (event.key === 'Escape') emit('done')
  else return
  event.preventDefault()
  event.stopPropagation()
  await nextTick()
  list.value?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' })
}
</script>

<template>
  <div class="picker" role="search">
    <input ref="input" v-model="text" placeholder="what it moves: index, cutoff, pan …" aria-label="What it moves" role="combobox" aria-expanded="true" aria-controls="targets" :aria-activedescendant="targets[at] ? `target-${at}` : undefined" @keydown="key" />
    <button type="button" class="icon-btn" aria-label="Add no link" @click="emit('done')"><i class="pi pi-times" /></button>
    <div id="targets" ref="list" class="list" role="listbox" aria-label="Values" tabindex="0">
      <div v-for="(target, i) in targets" :id="`target-${i}`" :key="`${target.address.param} ${target.address.id} ${target.address.point}`" role="option" :aria-selected="i === at" :class="{ at: i === at }" @pointerenter="at = i" @click="take(target)">
        <span v-if="target.unit !== null && target.unit < 1000" class="badge" :style="{ '--c': inkOf(target.unit) }">{{ target.unit }}</span>
        <span class="clip">{{ target.title }}</span><span class="spacer" /><span class="muted">{{ target.now }}</span>
      </div>
    </div>
    <p v-if="targets.length === 0" class="muted">No matching value.</p>
  </div>
</template>

<style scoped>
.picker { display: grid; grid-template-columns: 1fr auto; gap: 4px; }
input { height: 28px; padding: 0 8px; border: 1px solid var(--ink); border-radius: var(--r); background: var(--sheet); min-width: 0; }
.list, p { grid-column: 1 / -1; margin: 0; }
.list { max-height: 190px; overflow-y: auto; scrollbar-width: thin; }
[role='option'] { display: flex; align-items: center; gap: 6px; min-height: 24px; padding: 0 6px; cursor: pointer; white-space: nowrap; }
.at { background: var(--select); }
.clip { overflow: hidden; text-overflow: ellipsis; }
</style>
