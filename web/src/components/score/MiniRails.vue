<script setup lang="ts">
/** An arrangement as small rails: the same drawing as beside the strips, without words. */
import { computed } from 'vue'

import { railLines } from './rails'
import { inkOf } from '../../draw/tokens'
import type { Rail } from '../../engine/generated/Rail'

const props = defineProps<{ rows: number[]; rails: Rail[] }>()
const ROW = 11
const GUTTER = 30
const height = computed(() => props.rows.length * ROW + 6)
const boxes = computed(() => props.rows.map((_, i) => ({ top: i * ROW, height: ROW })))
const lines = computed(() => railLines(props.rails, boxes.value, props.rows.length * ROW + 3, { gutter: GUTTER, firstLane: GUTTER - 9, laneStep: 5, curve: 2.5, small: true }))
</script>

<template>
  <svg :width="GUTTER + 16" :height="height" aria-hidden="true">
    <g v-for="line in lines" :key="line.route" :style="{ color: inkOf(line.from) }">
      <path :d="line.path" fill="none" stroke="currentColor" stroke-width="1.4" />
      <circle v-if="line.end.radius" :cx="line.end.x" :cy="line.end.y" r="1.6" fill="currentColor" />
    </g>
    <rect v-for="(unit, i) in rows" :key="unit" :x="GUTTER" :y="i * ROW + 2" width="11" height="7" rx="1" :fill="inkOf(unit)" />
    <path :d="`M${GUTTER - 2} ${rows.length * ROW + 3}h16`" class="out" />
  </svg>
</template>

<style scoped>
.out { stroke: var(--ink); stroke-width: 2; }
</style>
