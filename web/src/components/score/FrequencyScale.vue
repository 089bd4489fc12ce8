<script setup lang="ts">
/** The frequencies of the result, at its left. */
import { computed } from 'vue'

import { WHOLE } from '../../draw/axis'
import { hzToY, marksHz, SIDE_PX, TOP_PX } from '../../draw/result'
import type { Span } from '../../engine/generated/Span'

const props = defineProps<{ height: number; /** The part of them that is seen, if not all. */ span?: Span }>()
const y = (hz: number) => hzToY(props.height, hz, props.span)
const label = (hz: number) => (hz >= 1000 ? `${hz / 1000} k` : `${hz}`)
const marks = computed(() => {
  let last = Infinity
  return marksHz(props.span ?? WHOLE).filter((hz) => last - y(hz) > 15 && (last = y(hz)))
})
</script>

<template>
  <g data-testid="frequencies">
    <template v-for="hz in marks" :key="hz">
      <path :d="`M${SIDE_PX - 5} ${y(hz)}h5`" class="tick" />
      <text :x="SIDE_PX - 8" :y="y(hz) + 4" text-anchor="end" class="scale">{{ label(hz) }}</text>
    </template>
    <text :x="SIDE_PX - 8" :y="TOP_PX - 5" text-anchor="end" class="scale">Hz</text>
  </g>
</template>

<style scoped>
.tick { stroke: var(--ink-3); }
.scale { font-size: var(--fs-11); fill: var(--ink-3); }
</style>
