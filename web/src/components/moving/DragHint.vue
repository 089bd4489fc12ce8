<script setup lang="ts">
/** What letting go would do, beside the pointer: above it near the lower edge, to its left near the right one. */
import { useMoving } from '../../stores/moving'

const moving = useMoving()
const style = (x: number, y: number) => ({
  ...(x > window.innerWidth - 240 ? { right: `${window.innerWidth - x + 14}px` } : { left: `${x + 14}px` }),
  top: `${y > window.innerHeight - 120 ? y - 28 : y + 10}px`,
})
</script>

<template>
  <div v-if="moving.hint" class="drag-hint" :style="style(moving.hint.x, moving.hint.y)">{{ moving.hint.words }}</div>
</template>

<style scoped>
.drag-hint { position: fixed; z-index: 60; background: var(--ink); color: var(--on-ink); padding: 3px 8px; border-radius: var(--r); white-space: nowrap; pointer-events: none; }
</style>
