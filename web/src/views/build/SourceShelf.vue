<script setup lang="ts">
/** The sources of movement at hand in Build: drag one onto a value, or onto a strip, and it moves that. */
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import SourceGlyph from '../../components/moving/SourceGlyph.vue'
import { useGesture } from '../../composables/useGesture'
import type { Address } from '../../engine/generated/Address'
import type { SourceView } from '../../engine/generated/SourceView'
import { useDocument } from '../../stores/document'
import { useSaving } from '../../stores/saving'

defineProps<{ sources: SourceView[] }>()
const document = useDocument()
const saving = useSaving()
const router = useRouter()
const hint = ref<{ x: number; y: number; words: string }>()

/** What lies under the pointer that can be moved: a value, or a strip, whose strongest send is meant. */
function under(x: number, y: number): { address?: Address; unit?: number; words: string } | undefined {
  for (const element of window.document.elementsFromPoint(x, y)) {
    const field = element.closest<HTMLElement>('[data-param]')
    if (field) {
      const { param, id, point } = field.dataset
      const words = field.dataset.movable ? `moves ${field.getAttribute('aria-label')?.toLowerCase() ?? 'this'}` : 'stands still while a note sounds'
      return field.dataset.movable ? { address: { param, id: Number(id), point: Number(point) } as Address, words } : { words }
    }
    const rail = element.closest<HTMLElement>('[data-route]')
    const depth = rail && document.view?.strips.flatMap(({ sends }) => sends).find(({ route }) => route === Number(rail.dataset.route))?.values[0]
    if (depth) return { address: depth.address, words: `moves ${depth.label.toLowerCase()}` }
    const strip = element.closest<HTMLElement>('[data-unit]')
    if (strip) return { unit: Number(strip.dataset.unit), words: `moves what ${strip.getAttribute('aria-label') ?? 'it'} sends` }
  }
  return undefined
}
const { take } = useGesture<SourceView>({
  edits: false,
  move(_, event) {
    hint.value = { x: event.clientX, y: event.clientY, words: under(event.clientX, event.clientY)?.words ?? 'onto a value or a strip' }
  },
  end({ what }, event, kept) {
    hint.value = undefined
    const onto = kept && event ? under(event.clientX, event.clientY) : undefined
    if (onto?.address) document.edit({ do: 'add_links', from: what.id, to: [onto.address] })
    else if (onto?.unit !== undefined) document.alter({ ask: 'link_strips', from: what.id, strips: document.units.includes(onto.unit) ? document.units : [onto.unit] })
  },
})
function open(source: SourceView) {
  document.source = source.id
  void router.push(`/patch/${saving.id}/move`)
}
</script>

<template>
  <div v-if="sources.length" class="shelf" role="group" aria-label="Sources of movement">
    <button
      v-for="source in sources" :key="source.id" type="button" class="btn" :class="{ off: !source.on }" :title="`${source.name}, ${source.words}: drag onto a value or a strip; click: to Move`"
      @pointerdown="take($event, source, () => open(source))" @keydown.enter.prevent="open(source)"
    ><SourceGlyph :source="source" /><span class="clip">{{ source.name }}</span></button>
    <Teleport to="body"><div v-if="hint" class="drag-hint" :style="{ left: `${hint.x + 14}px`, top: `${hint.y + 10}px` }">{{ hint.words }}</div></Teleport>
  </div>
</template>

<style scoped>
.shelf { display: flex; gap: 4px; min-width: 0; }
.btn { padding: 0 6px; cursor: grab; touch-action: none; }
.off { opacity: 0.6; }
.clip { max-width: 6em; overflow: hidden; text-overflow: ellipsis; }
.drag-hint { position: fixed; z-index: 60; background: var(--ink); color: var(--on-ink); padding: 3px 8px; border-radius: var(--r); white-space: nowrap; pointer-events: none; }
</style>
