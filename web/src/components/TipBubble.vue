<script setup lang="ts">
/** What stands in titles, for those who have no pointer to rest on them: beside what the keyboard has gone to, and under a finger that rests. */
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

/** So long the focus rests before it is told, in milliseconds. */
const REST_MS = 700
/** So long a finger's tip stays. */
const STAYS_MS = 4000
const MOST_PX = 300
const tip = ref<{ words: string; left: number; top: number; below: boolean }>()
let timer = 0

function hide() {
  window.clearTimeout(timer)
  tip.value = undefined
}
function show(target: Element) {
  const titled = target.closest('[title]')
  const words = titled?.getAttribute('title')
  if (!titled || !words) return
  const box = titled.getBoundingClientRect()
  const below = box.bottom + 60 < window.innerHeight
  tip.value = { words, left: Math.max(8, Math.min(box.left, window.innerWidth - MOST_PX - 8)), top: below ? box.bottom + 4 : box.top - 4, below }
}
let moves = false
useEventListener(window, 'keydown', ({ key }) => (moves = key === 'Tab' || key.startsWith('Arrow')), { capture: true })
useEventListener(window, 'focusin', ({ target }) => {
  hide()
  // a field that has the focus again after typing was not gone to
  if (moves && target instanceof HTMLElement && target.matches(':focus-visible') && !target.matches('input, textarea, [aria-expanded=true]')) timer = window.setTimeout(() => window.document.activeElement === target && show(target), REST_MS)
})
for (const end of ['focusout', 'keydown', 'wheel', 'resize'] as const) useEventListener(window, end, hide, { capture: true, passive: true })
let touched = false
useEventListener(window, 'pointerdown', (event) => {
  hide()
  moves = false
  touched = event.pointerType === 'touch'
}, { capture: true })
// where the right button means nothing a finger that rests is told what is under it
useEventListener(window, 'contextmenu', (event) => {
  if (!touched || event.defaultPrevented || !(event.target instanceof Element)) return
  show(event.target)
  if (tip.value) event.preventDefault()
  timer = window.setTimeout(hide, STAYS_MS)
})
</script>

<template>
  <Teleport to="body"><div v-if="tip" class="tip" :class="{ above: !tip.below }" :style="{ left: `${tip.left}px`, top: `${tip.top}px`, maxWidth: `${MOST_PX}px` }" aria-hidden="true" data-testid="tip">{{ tip.words }}</div></Teleport>
</template>

<style scoped>
.tip { position: fixed; z-index: 2000; padding: 5px 8px; background: var(--ink); color: var(--on-ink); border-radius: var(--r); font-size: var(--fs-12); pointer-events: none; width: max-content; }
.above { transform: translateY(-100%); }
</style>
