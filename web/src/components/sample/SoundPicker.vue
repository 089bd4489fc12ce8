<script setup lang="ts">
/** All recordings. */
import { onMounted, ref } from 'vue'

import FamilyPicker from '../FamilyPicker.vue'
import type { SoundChoice } from '../../engine/generated/SoundChoice'
import { useDocument } from '../../stores/document'

defineProps<{ chosen: string; units: number[] }>()
const emit = defineEmits<{ import: [] }>()
const document = useDocument()
const list = ref<SoundChoice[]>([])
onMounted(() => {
  const answer = document.ask({ ask: 'sounds' })
  if (answer.is === 'sounds') list.value = answer.list
})
</script>

<template>
  <FamilyPicker :items="list" :chosen="chosen" label="Recordings" :columns="3" bring="Import WAV, FLAC, AIFF or OGG" @choose="document.alter({ ask: 'choose_sound', units, at: $event })" @import="emit('import')" />
</template>
