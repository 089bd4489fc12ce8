<script setup lang="ts">
/** A wheel as it stands at the left of a keyboard. One that springs comes back when it is let go. */
defineProps<{ value: number; min: number; max: number; label: string; name: string }>()
const emit = defineEmits<{ turn: [value: number]; let: [] }>()
const number = (event: Event) => Number((event.target as HTMLInputElement).value)
</script>

<template>
  <label class="wheel" :title="label"><input :value="value" type="range" :min="min" :max="max" :aria-label="label" aria-orientation="vertical" @input="emit('turn', number($event))" @change="emit('let')" />{{ name }}</label>
</template>

<style scoped>
.wheel { display: flex; flex-direction: column; align-items: center; justify-content: flex-end; gap: 2px; font-size: var(--fs-11); color: var(--ink-3); height: 100%; }
input { writing-mode: vertical-lr; direction: rtl; width: 24px; flex: 1; min-height: 0; accent-color: var(--ink); cursor: ns-resize; }
</style>
