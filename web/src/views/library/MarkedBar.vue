<script setup lang="ts">
/** What can be done to the patches that are marked, and how those that went into the bin come out again. */
defineProps<{ ids: number[]; bin: boolean; binned: number }>()
const emit = defineEmits<{ export: []; remove: []; restore: []; tagged: []; clear: []; undo: [] }>()
/** A tag as it is typed. */
const tag = defineModel<string>('tag', { required: true })
const tagAll = () => tag.value.trim() && emit('tagged')
</script>

<template>
  <div class="several" role="toolbar" aria-label="Marked patches">
    <template v-if="ids.length">
      <b>{{ ids.length }} marked</b>
      <button type="button" class="btn" @click="emit('export')">Export</button>
      <template v-if="!bin">
        <button type="button" class="btn" @click="emit('remove')">Move to the bin</button>
        <label>Tag <input v-model="tag" class="new-tag" maxlength="24" aria-label="Tag for those marked" @keydown.enter="tagAll" /></label>
        <button type="button" class="btn" :disabled="!tag.trim()" @click="tagAll">Add tag</button>
      </template>
      <button v-else type="button" class="btn" @click="emit('restore')">Restore</button>
      <button type="button" class="link-btn" @click="emit('clear')">Clear selection</button>
    </template>
    <span class="spacer" />
    <span v-if="binned && !bin" role="status">
      {{ binned === 1 ? 'One patch is' : `${binned} patches are` }} in the bin now. <button type="button" class="link-btn" @click="emit('undo')">Undo</button>
    </span>
  </div>
</template>

<style scoped>
.several { display: flex; align-items: center; gap: 8px; padding: 0 16px 8px; }
.new-tag { height: 28px; width: 120px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
</style>
