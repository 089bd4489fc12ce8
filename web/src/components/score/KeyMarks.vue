<script setup lang="ts">
/** Over all rows: when the key goes down and up, and the cursor. What stands at the cursor has its room: words there give way. */
import { computed } from 'vue'

import type { Axis } from '../../draw/axis'
import { useSettings } from '../../stores/settings'

const props = defineProps<{ axis: Axis; height: number; cursorX: number; releaseX: number; noteY: number }>()
const settings = useSettings()
/** Room of what is written at the cursor, and of the words. */
const WORDS_PX = 66
const DOWN_PX = 48
const UP_PX = 38
const words = computed(() => (settings.showsPhrase ? ['phrase', 'ends'] : ['key down', 'key up']))
const isFree = (from: number, width: number) => props.cursorX + WORDS_PX < from || props.cursorX > from + width
const marks = computed(() => [
  { x: 5, words: words.value[0], is: isFree(5, DOWN_PX) },
  { x: props.releaseX + 5, words: words.value[1], is: props.releaseX < props.axis.widthPx - 44 && isFree(props.releaseX + 5, UP_PX) },
])
</script>

<template>
  <svg class="over" :width="axis.widthPx" :height="height" aria-hidden="true">
    <path :d="`M${releaseX} 0V${height}`" class="release" /><path :d="`M${cursorX} 0V${height}`" class="cursor" />
    <template v-for="mark in marks" :key="mark.x"><text v-if="mark.is" :x="mark.x" :y="noteY" class="note">{{ mark.words }}</text></template>
  </svg>
</template>

<style scoped>
.over { position: absolute; left: var(--side); top: 0; pointer-events: none; }
.release { stroke: var(--ink); stroke-dasharray: 4 3; }
.cursor { stroke: var(--ink); stroke-width: 1.2; }
.note { font-family: var(--font-note); font-size: var(--fs-11); fill: var(--ink-2); paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; }
</style>
