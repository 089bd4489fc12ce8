<script setup lang="ts">
/** The sources of movement at hand in Build: drag one onto a value, or onto a strip, and it moves that. */
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import Popover from '../../components/OwnPopover.vue'
import SourceChip from './SourceChip.vue'
import { useDropSource } from '../../composables/hand/useDropSource'
import type { SourceView } from '../../engine/generated/SourceView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'
import { useSaving } from '../../stores/saving'

const props = defineProps<{ sources: SourceView[]; leftOut: number }>()
const document = useDocument()
const moving = useMoving()
const saving = useSaving()
const router = useRouter()
const take = useDropSource()
const rest = ref<InstanceType<typeof Popover>>()
const shown = computed(() => props.sources.length - props.leftOut)
function open(source: SourceView) {
  document.source = source.id
  void router.push(`/patch/${saving.id}/move`)
}
// what is dragged out of the list is dropped on what lies behind it
watch(() => moving.hint !== undefined, (dragged) => dragged && rest.value?.hide())
</script>

<template>
  <div v-if="sources.length" class="shelf" role="group" aria-label="Sources of movement">
    <SourceChip v-for="source in sources.slice(0, shown)" :key="source.id" :source="source" @grip="take($event, source.id, () => open(source))" @open="open(source)" />
    <template v-if="leftOut">
      <button type="button" class="btn more" aria-haspopup="true" :title="`${leftOut} more sources of movement`" @click="rest?.toggle($event)">+{{ leftOut }}</button>
      <Popover ref="rest" label="More sources">
        <div class="rest" role="group" aria-label="More sources of movement">
          <SourceChip v-for="source in sources.slice(shown)" :key="source.id" :source="source" @grip="take($event, source.id, () => open(source))" @open="open(source)" />
        </div>
      </Popover>
    </template>
  </div>
</template>

<style scoped>
.shelf { display: flex; gap: 4px; flex: none; }
.more { padding: 0 6px; }
.rest { display: flex; flex-wrap: wrap; gap: 4px; max-width: 330px; }
</style>
