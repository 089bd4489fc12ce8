<script setup lang="ts">
/** The sources of movement at hand in Build: drag one onto a value, or onto a strip, and it moves that. */
import { useRouter } from 'vue-router'

import SourceGlyph from '../../components/moving/SourceGlyph.vue'
import { useDropSource } from '../../composables/useDropSource'
import type { SourceView } from '../../engine/generated/SourceView'
import { useDocument } from '../../stores/document'
import { useSaving } from '../../stores/saving'

defineProps<{ sources: SourceView[] }>()
const document = useDocument()
const saving = useSaving()
const router = useRouter()
const take = useDropSource()
function open(source: SourceView) {
  document.source = source.id
  void router.push(`/patch/${saving.id}/move`)
}
</script>

<template>
  <div v-if="sources.length" class="shelf" role="group" aria-label="Sources of movement">
    <button
      v-for="source in sources" :key="source.id" type="button" class="btn" :class="{ off: !source.on }" :data-giver="source.id" :title="`${source.name}, ${source.words}: drag onto a value or a strip, or the name of a value onto it; click: to Move`"
      @pointerdown="take($event, source.id, () => open(source))" @keydown.enter.prevent="open(source)"
    ><SourceGlyph :source="source" /><span class="clip">{{ source.name }}</span></button>
  </div>
</template>

<style scoped>
.shelf { display: flex; gap: 4px; min-width: 0; }
.btn { padding: 0 6px; cursor: grab; touch-action: none; }
.off { opacity: 0.6; }
.clip { max-width: 6em; overflow: hidden; text-overflow: ellipsis; }
</style>
