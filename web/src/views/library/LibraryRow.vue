<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'

import NameField from '../../components/NameField.vue'
import { usePicture } from '../../composables/heard/usePicture'
import { shortDate } from '../../draw/dates'
import { api } from '../../engine/api'
import type { PatchSummary } from '../../engine/generated/PatchSummary'

const props = defineProps<{ patch: PatchSummary; playing: boolean; hearing: boolean; marked: boolean }>()
defineEmits<{ audition: []; open: []; rename: [name: string]; duplicate: []; remove: []; restore: []; erase: []; export: []; mark: [range: boolean]; tag: [tag: string] }>()

const date = computed(() => shortDate(new Date(props.patch.binned_at ?? props.patch.changed_at)))
const place = useTemplateRef('place')
const picture = usePicture(place, () => api.pictureUrl(props.patch))
</script>

<template>
  <div class="row patch" role="row" :class="{ hearing }" :aria-label="patch.name" @dblclick="!patch.binned_at && !patch.damage && $emit('open')">
    <span role="cell" class="sound">
      <input type="checkbox" :checked="marked" :aria-label="`Mark ${patch.name}`" @click="$emit('mark', $event.shiftKey)" @dblclick.stop />
      <span v-if="patch.damage" class="damage">Damaged</span>
      <button v-else type="button" class="icon-btn" :aria-label="`${playing ? 'Stop' : 'Hear'} ${patch.name}`" @click="$emit('audition')" @dblclick.stop>
        <i class="pi" :class="playing ? 'pi-stop' : 'pi-play'" />
      </button>
      <span v-if="!patch.damage" ref="place" class="picture" :style="{ maskImage: picture, opacity: picture ? 1 : 0 }" role="img" :aria-label="`Picture of ${patch.name}`" @click="$emit('audition')" />
    </span>
    <span role="cell" class="name">
      <span class="strong"><NameField :name="patch.name" label="Name" @rename="$emit('rename', $event)" @dblclick.stop /></span>
      <span v-if="!patch.damage" class="muted">{{ patch.strips }} {{ patch.strips === 1 ? 'strip' : 'strips' }}</span>
    </span>
    <span role="cell" class="tags"><button v-for="tag in patch.tags" :key="tag" type="button" :title="`Only with ${tag}`" @click="$emit('tag', tag)" @dblclick.stop>{{ tag }}</button></span>
    <span v-if="patch.damage" role="cell" class="clip damage" :title="patch.damage">{{ patch.damage }}. Export it as it is, or move it to the bin.</span>
    <span v-else role="cell" class="clip" :title="patch.note">{{ patch.note }}</span>
    <span role="cell" class="muted">{{ date }}</span>
    <span role="cell" class="acts" @dblclick.stop>
      <template v-if="patch.binned_at">
        <button type="button" class="btn" :aria-label="`Restore ${patch.name}`" @click="$emit('restore')">Restore</button>
        <button type="button" class="icon-btn" :aria-label="`Delete ${patch.name} for good`" title="Delete for good" @click="$emit('erase')"><i class="pi pi-times" /></button>
      </template>
      <template v-else>
        <button v-if="!patch.damage" type="button" class="btn" @click="$emit('open')">Open</button>
        <button v-if="!patch.damage" type="button" class="icon-btn" :aria-label="`Duplicate ${patch.name}`" title="Duplicate" @click="$emit('duplicate')"><i class="pi pi-clone" /></button>
        <button type="button" class="icon-btn" :aria-label="`Export ${patch.name}`" title="Export patch file" @click="$emit('export')"><i class="pi pi-download" /></button>
        <button type="button" class="icon-btn" :aria-label="`Move ${patch.name} to the bin`" title="Move to the bin" @click="$emit('remove')"><i class="pi pi-trash" /></button>
      </template>
    </span>
  </div>
</template>

<style scoped>
.patch { min-height: 52px; }
.patch :is(button, input) { scroll-margin-top: 40px; }
.patch:hover { background: var(--paper); }
.hearing { background: var(--select); }
.sound { display: flex; align-items: center; gap: 6px; }
.picture { width: 144px; height: 32px; background: var(--ink); mask-size: 100% 100%; cursor: pointer; }
.name { display: grid; min-width: 0; font-size: var(--fs-15); }
.name .muted { font-size: var(--fs-11); padding-left: 2px; }
.tags { display: flex; flex-wrap: wrap; gap: 3px; }
.tags button { font-size: var(--fs-11); min-height: 24px; padding: 0 7px; border: 0; background: var(--field); border-radius: var(--r); cursor: pointer; }
.clip { display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; color: var(--ink-2); }
.damage { color: var(--warn); }
.acts { display: flex; justify-content: flex-end; align-items: center; gap: 2px; }
</style>
