<script setup lang="ts">
/** Hatches in each operator ink: colour never carries the meaning alone. */
import { inkOf } from '../../draw/tokens'

const SHAPES = ['M0 6L6 0', 'M2 3h1.200', 'M0 0L6 6', 'M3 0V6', 'M0 3H6', 'M0 6L6 0M0 0L6 6']
</script>

<template>
  <svg width="0" height="0" class="defs" aria-hidden="true">
    <defs>
      <template v-for="(shape, i) in SHAPES" :key="i">
        <pattern v-for="ink in 6" :id="`hatch${i}-${ink}`" :key="ink" width="6" height="6" patternUnits="userSpaceOnUse">
          <path :d="shape" fill="none" :style="{ stroke: inkOf(ink) }" stroke-width="0.9" />
        </pattern>
      </template>
    </defs>
  </svg>
</template>

<style scoped>
.defs { position: absolute; }
</style>
