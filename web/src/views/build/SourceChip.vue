<script setup lang="ts">
/** A source of movement to be taken hold of: dragged onto a value or a strip it moves that. */
import SourceGlyph from '../../components/moving/SourceGlyph.vue'
import type { SourceView } from '../../engine/generated/SourceView'

defineProps<{ source: SourceView }>()
defineEmits<{ grip: [event: PointerEvent]; open: [] }>()
</script>

<template>
  <button
    type="button" class="btn" :class="{ off: !source.on }" :data-giver="source.id" :title="`${source.name}, ${source.words}: drag onto a value or a strip, or the name of a value onto it; click: to Move`"
    @pointerdown="$emit('grip', $event)" @keydown.enter.prevent="$emit('open')"
  ><SourceGlyph :source="source" /><span class="clip">{{ source.name }}</span></button>
</template>

<style scoped>
.btn { padding: 0 6px; cursor: grab; touch-action: none; }
.off { opacity: 0.6; }
.clip { max-width: 6em; overflow: hidden; text-overflow: ellipsis; }
</style>
