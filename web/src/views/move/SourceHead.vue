<script setup lang="ts">
/** The head of a source: a small picture, its name, what it is, what it moves; on, mute, solo. */
import { computed, ref } from 'vue'

import LinkChip from './LinkChip.vue'
import SourceGlyph from '../../components/moving/SourceGlyph.vue'
import NameField from '../../components/NameField.vue'
import type { LinkView } from '../../engine/generated/LinkView'
import type { SourceView } from '../../engine/generated/SourceView'
import { useFits } from '../../composables/screen/useFits'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

const props = defineProps<{ source: SourceView; links: LinkView[]; selected: boolean }>()
defineEmits<{ grip: [event: PointerEvent] }>()
const document = useDocument()
const moving = useMoving()
/** Links of others that it brings in. */
const brings = computed(() => document.view?.links.filter((link) => link.scaled_by === props.source.id) ?? [])
const loose = computed(() => document.view?.loose.filter(({ source }) => source === props.source.id) ?? [])
const MOST = 3
const bar = ref<HTMLElement | null>(null)
/** Chips for which there is no room. */
const leftOut = useFits(bar, MOST - 1, () => (props.selected ? '' : props.links.slice(0, MOST).map(({ short, amount, scaled_name }) => `${short} ${amount.number} ${amount.unit} ${scaled_name}`).join()))
const shown = computed(() => (props.selected ? props.links : props.links.slice(0, MOST - leftOut.value)))
</script>

<template>
  <div class="head" :class="{ off: !source.on || source.muted, selected }" @click="document.source = source.id">
    <div class="first">
      <button type="button" class="grip" tabindex="-1" :aria-label="`${source.name}: drag onto a source`" title="Drag onto another source to move how fast it goes" @pointerdown.stop.prevent="$emit('grip', $event)" @click.stop="document.source = source.id"><SourceGlyph :source="source" /></button>
      <span class="called"><NameField :name="source.name" twice :label="`Name of ${source.name}`" :most="document.rules?.unit_name" @rename="document.edit({ do: 'rename_source', source: source.id, name: $event })" /></span>
      <span class="muted words" :title="source.words">{{ source.words }}</span>
      <b v-if="source.differs" :title="`${source.differs} different from the base in this articulation`">≠ {{ source.differs }}</b>
      <button type="button" class="tag dot" tabindex="-1" :aria-pressed="source.on" :aria-label="`${source.name} on`" :title="source.on ? 'Switch off' : 'Switch on'" @click.stop="document.edit({ do: 'switch_source', source: source.id, on: !source.on })"><i /></button>
      <button type="button" class="tag" tabindex="-1" :class="{ on: source.muted }" :aria-pressed="source.muted" :aria-label="`Mute ${source.name}`" title="Mute for now: hear it without" @click.stop="document.toggle('muted_sources', source.id)"><span>M</span></button>
      <button type="button" class="tag" tabindex="-1" :class="{ on: source.soloed }" :aria-pressed="source.soloed" :aria-label="`Solo ${source.name}`" title="Solo for now: only this moves anything" @click.stop="document.toggle('soloed_sources', source.id)"><span>S</span></button>
    </div>
    <div ref="bar" class="links" :class="{ alone: shown.length === 1 }">
      <LinkChip v-for="link in shown" :key="link.id" :link="link" />
      <span v-if="links.length > shown.length" class="muted">and {{ links.length - shown.length }} more</span>
      <span v-for="link in brings.slice(0, 2)" :key="`b${link.id}`" class="muted brings">brings in {{ link.from_name }} on {{ link.target }}</span>
      <button
        v-if="loose.length" type="button" class="warn-tag" tabindex="-1" :title="`${loose.map(({ words }) => words).join('. ')}. Click: link it to something else`"
        @click="moving.linking = source.id"
      >{{ loose.length === 1 ? 'Link lost' : `${loose.length} links lost` }}</button>
      <span v-else-if="links.length === 0 && brings.length === 0" class="muted">not linked yet</span>
    </div>
  </div>
</template>

<style scoped>
.head { height: 100%; padding: 2px 4px 2px 8px; cursor: pointer; overflow: hidden; min-width: 0; }
.first { display: flex; align-items: center; gap: 6px; height: 24px; min-width: 0; }
.grip { width: 30px; height: 24px; border: 0; padding: 0; background: none; cursor: grab; touch-action: none; flex: none; display: grid; place-items: center; }
.called { font-weight: 600; font-size: 14px; min-width: 5em; flex: 0 1 auto; display: flex; overflow: hidden; }
.words { flex: 1 1 0; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.links { display: flex; gap: 4px 10px; padding: 0 0 0 36px; overflow: hidden; white-space: nowrap; height: 18px; align-items: center; }
.alone .chip { flex: 0 1 auto; min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.selected .links { flex-wrap: wrap; height: 40px; align-content: flex-start; overflow-y: auto; scrollbar-width: thin; }
.brings { font-size: var(--fs-11); flex: 0 1 auto; min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.tag { width: 24px; height: 24px; padding: 0; border: 0; background: none; display: grid; place-items: center; cursor: pointer; color: var(--ink-2); flex: none; }
.tag span { width: 18px; height: 18px; font-size: var(--fs-11); line-height: 16px; border: 1px solid var(--hair-2); border-radius: var(--r); }
.tag.on span { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.dot i { width: 9px; height: 9px; border-radius: 50%; background: var(--ink); border: 1.5px solid var(--ink); }
.off .dot i { background: none; }
.off .called { color: var(--ink-3); }
</style>
