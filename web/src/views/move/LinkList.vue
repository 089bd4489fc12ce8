<script setup lang="ts">
/** All links of the patch, sorted and filtered by source or by what they move. */
import { computed, ref } from 'vue'

import LinkRow from '../../components/moving/LinkRow.vue'
import type { DocumentView } from '../../engine/generated/DocumentView'

const props = defineProps<{ view: DocumentView }>()
const filter = ref('')
const by = ref<'source' | 'target'>('source')
const shown = computed(() => {
  const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean)
  const name = (link: DocumentView['links'][number]) => (by.value === 'source' ? `${link.from_name} ${link.target}` : `${link.target} ${link.from_name}`)
  const found = props.view.links.filter((link) => words.every((word) => name(link).toLowerCase().includes(word)))
  return [...found].sort((a, b) => name(a).localeCompare(name(b)))
})
</script>

<template>
  <div data-testid="all-links">
    <header><h2 class="title">All links</h2><span class="spacer" /><span class="muted">{{ view.links.length }}</span></header>
    <section v-if="view.links.length" class="tools">
      <input v-model="filter" type="search" placeholder="filter" aria-label="Filter the links" />
      <span class="seg" role="group" aria-label="Sort by">
        <button type="button" :aria-pressed="by === 'source'" @click="by = 'source'">Source</button>
        <button type="button" :aria-pressed="by === 'target'" @click="by = 'target'">Target</button>
      </span>
    </section>
    <section>
      <template v-for="(link, i) in shown" :key="link.id">
        <h3 v-if="by === 'source' ? link.from_name !== shown[i - 1]?.from_name : link.target !== shown[i - 1]?.target">{{ by === 'source' ? link.from_name : link.target }}</h3>
        <LinkRow :link="link" :sources="view.sources" :from="by === 'target'" />
      </template>
      <p v-if="view.links.length === 0" class="muted">No links yet. Select a source and say what it moves, or in Build press L on a value.</p>
      <p v-else-if="shown.length === 0" class="muted">No link is called so.</p>
    </section>
  </div>
</template>

<style scoped>
header { display: flex; align-items: center; height: 38px; padding: 0 12px; }
.title { font-size: var(--fs-15); }
.tools { display: flex; gap: 8px; }
input { flex: 1; min-width: 0; height: 24px; padding: 0 8px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
</style>
