<script setup lang="ts">
/** A value: drag, wheel, arrow keys, double click for the default, and above all type. */
import { computed, nextTick, ref } from 'vue'

import { useGesture, useWheelGesture } from '../../composables/useGesture'
import type { ValueView } from '../../engine/generated/ValueView'
import { useDocument } from '../../stores/document'

const props = withDefaults(defineProps<{ value: ValueView; label?: string; inline?: boolean; disabled?: boolean }>(), { label: undefined })

const document = useDocument()
/** Values of a unit are set on all selected units. */
const also = () => (props.value.address.id === document.selected ? document.also() : [])
const typing = ref(false)
const typed = ref('')
const problem = ref('')
const input = ref<HTMLInputElement>()
const field = ref<HTMLElement>()
/** Pixels of a drag over the whole range. */
const RANGE_PX = 220
const PROBLEM_PX = 260
const spot = ref({ left: '0', top: '0' })

const label = computed(() => props.label ?? props.value.label)
const bar = computed(() => {
  const [from, to] = [props.value.origin, props.value.place].sort((a, b) => a - b)
  return { left: `${from * 100}%`, width: `${Math.max((to - from) * 100, 1)}%` }
})

async function type(begin?: string) {
  problem.value = ''
  typed.value = begin ?? `${props.value.number}${props.value.unit ? ` ${props.value.unit}` : ''}`
  typing.value = true
  await nextTick()
  input.value?.focus()
  if (begin === undefined) input.value?.select()
}

function commit() {
  if (!typing.value) return
  const why = document.type(props.value.address, typed.value)
  if (why) {
    problem.value = why
    // beside the field, but never cut off by the panel it stands in
    const box = field.value?.getBoundingClientRect()
    if (box) spot.value = { left: `${Math.max(8, Math.min(box.left, window.innerWidth - PROBLEM_PX - 8))}px`, top: `${box.bottom + 2}px` }
    return
  }
  leave()
}

function leave() {
  typing.value = false
  problem.value = ''
  void nextTick(() => field.value?.focus())
}

/** Leaving the field takes what is a value and drops what is none. */
function blur() {
  if (!typing.value) return
  const same = typed.value === `${props.value.number}${props.value.unit ? ` ${props.value.unit}` : ''}`
  if (!same) document.alter({ ask: 'type', address: props.value.address, also: also(), text: typed.value })
  typing.value = false
  problem.value = ''
}

const { take } = useGesture<number>({
  move({ what: start, x, y, gesture }, event) {
    const pixels = event.clientX - x + (y - event.clientY)
    document.alter({ ask: 'drag', address: props.value.address, also: also(), start, moved: pixels / RANGE_PX, fine: event.shiftKey, gesture })
  },
})
function down(event: PointerEvent) {
  if (!typing.value && !props.disabled) take(event, props.value.value)
}

function nudge(steps: number, fine: boolean, gesture: number | null = null) {
  document.alter({ ask: 'nudge', address: props.value.address, also: also(), steps, fine, gesture })
}
const wheel = useWheelGesture((event, gesture) => {
  if (!props.disabled) nudge(event.deltaY < 0 ? 1 : -1, event.shiftKey, gesture)
})

function key(event: KeyboardEvent) {
  if (typing.value || props.disabled || event.ctrlKey || event.metaKey) return
  const steps = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key]
  if (steps !== undefined) nudge(steps, event.shiftKey)
  else if (event.key === 'Enter') void type()
  else if (event.key === 'Delete' || event.key === 'Backspace') document.alter({ ask: 'reset', address: props.value.address, also: also() })
  else if (/^[-+.\d*/]$/.test(event.key)) void type(event.key)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    ref="field" class="field" :class="{ inline, typing, disabled }" role="spinbutton" :tabindex="disabled ? -1 : 0"
    :aria-label="label" :aria-valuenow="value.value" :aria-valuetext="`${value.number} ${value.unit}`.trim()" :aria-disabled="disabled"
    :title="`${document.help(value.address.param)} Type a value, drag (Shift: fine), wheel, arrow keys; double click for the default.`"
    @pointerdown="down" @wheel.prevent="wheel"
    @keydown="key" @dblclick="document.alter({ ask: 'reset', address: value.address, also: also() })"
  >
    <span class="label">{{ label }}</span>
    <input
      v-if="typing" ref="input" v-model="typed" class="value" :aria-label="`${label}, typed`" :aria-invalid="problem !== ''"
      @keydown.enter.stop.prevent="commit" @keydown.escape.stop.prevent="leave" @blur="blur" @dblclick.stop
    />
    <span v-else class="value" @click="type()">{{ value.number }}<u v-if="value.unit">{{ value.unit }}</u></span>
    <span class="track"><i :style="bar" /></span>
    <span v-if="value.limit" class="limit" role="note">{{ value.limit }}</span>
    <span v-if="problem" class="problem" :style="spot" role="alert">{{ problem }}</span>
  </div>
</template>

<style scoped>
.field {
  position: relative; background: var(--field); border-radius: var(--r); padding: 3px 6px 6px; cursor: ns-resize; min-width: 0;
  user-select: none; touch-action: none; min-height: 38px;
}
.field:hover { background: var(--field-hover); }
.field.disabled { opacity: 0.45; cursor: default; }
.label { display: block; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.value { display: block; font-size: var(--fs-13); line-height: 16px; font-weight: 600; white-space: nowrap; cursor: text; width: fit-content; max-width: 100%; }
.value u { text-decoration: none; font-weight: 400; font-size: var(--fs-11); color: var(--ink-2); margin-left: 2px; }
input.value { all: unset; width: 100%; font-weight: 600; font-size: var(--fs-13); line-height: 16px; cursor: text; user-select: text; }
.typing { outline: 1.5px solid var(--ink); }
.track { position: absolute; left: 6px; right: 6px; bottom: 3px; height: 2px; background: var(--bar-track); }
.track i { position: absolute; top: 0; height: 2px; background: var(--bar); }
.inline { display: flex; gap: 6px; align-items: baseline; min-height: 26px; height: 26px; padding: 3px 7px 7px; }
.inline .label, .inline .value { line-height: 17px; }
.inline input.value { width: 72px; }
.problem {
  position: fixed; z-index: 30; width: max-content; max-width: 260px; padding: 6px 8px; white-space: normal;
  background: var(--warn-bg); color: var(--warn); border: 1px solid var(--warn); border-radius: var(--r); font-size: var(--fs-12); cursor: default;
}
.limit { display: block; margin-top: 3px; color: var(--warn); font-size: var(--fs-11); line-height: 13px; white-space: normal; }
</style>
