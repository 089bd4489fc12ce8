<script setup lang="ts">
/** What plays now, over the spectrum at the cursor; by itself, as it is drawn anew many times a second. */
import { useLiveSpectrum } from '../../composables/heard/useLiveSpectrum'

const props = defineProps<{ height: number }>()
const live = useLiveSpectrum(() => props.height)
</script>

<template>
  <path v-if="live" :d="live" class="live" data-testid="live-spectrum" />
</template>

<style scoped>
.live { fill: none; stroke: var(--swept); stroke-width: 1.2; }
</style>
