<script setup lang="ts">
/** The title of a column, by which the list is sorted. */
import type { Column } from './useLibraryList'

defineProps<{ by: Column; label: string; sorted: { by: Column; down: boolean } }>()
</script>

<template>
  <button type="button" class="sort">{{ label }} <i v-if="sorted.by === by" class="pi" :class="sorted.down ? 'pi-angle-down' : 'pi-angle-up'" /></button>
</template>

<style scoped>
.sort { display: inline-flex; align-items: center; gap: 3px; min-height: 24px; padding: 0 8px 0 0; border: 0; background: none; color: inherit; cursor: pointer; }
</style>
