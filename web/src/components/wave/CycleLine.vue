<script setup lang="ts">
/** One cycle of a wave as a line. */
import { computed } from 'vue'

const props = withDefaults(defineProps<{ cycle: number[]; width: number; height: number; stroke?: number }>(), { stroke: 1.4 })
const path = computed(() => {
  const points = [...props.cycle, props.cycle[0] ?? 0]
  const full = Math.max(1, ...points.map(Math.abs))
  const room = props.height - 2 * props.stroke
  const at = (x: number, i: number) => `${((i / (points.length - 1)) * props.width).toFixed(1)} ${(props.stroke + room * (0.5 - (0.5 * x) / full)).toFixed(1)}`
  return `M${points.map(at).join('L')}`
})
</script>

<template>
  <svg :width="width" :height="height" class="cycle" aria-hidden="true">
    <path :d="`M0 ${height / 2}H${width}`" class="zero" />
    <path :d="path" fill="none" stroke="currentColor" :stroke-width="stroke" stroke-linejoin="round" />
  </svg>
</template>

<style scoped>
.cycle { display: block; flex: none; }
.zero { stroke: var(--hair-2); }
</style>
