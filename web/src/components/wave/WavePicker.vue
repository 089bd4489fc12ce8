<script setup lang="ts">
/** All waves. */
import FamilyPicker from '../FamilyPicker.vue'
import { useWaves } from '../../composables/heard/useWaves'
import { useDocument } from '../../stores/document'

defineProps<{ chosen: string; units: number[] }>()
const emit = defineEmits<{ import: [] }>()
const document = useDocument()
const waves = useWaves()
</script>

<template>
  <FamilyPicker :items="waves" :chosen="chosen" label="Waves" :columns="4" bring="Import a WAV as table" @choose="document.alter({ ask: 'choose_wave', units, at: $event })" @import="emit('import')" />
</template>
