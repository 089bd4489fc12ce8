<script setup lang="ts">
/** The line below the sources, always in sight: what can be added. */
import { useDocument } from '../../stores/document'

const document = useDocument()
</script>

<template>
  <div class="add" role="toolbar" aria-label="Add a source">
    <button v-for="{ kind, label, help } in document.sourceKinds" :key="kind" type="button" class="btn" :title="help" @click="document.edit({ do: 'add_source', kind, to: [] })">+ {{ label }}</button>
    <span class="spacer" />
    <button v-if="document.source !== null" type="button" class="link-btn" @click="document.source = null">All links</button>
  </div>
</template>

<style scoped>
.add { display: flex; gap: 6px; align-items: center; padding: 0 12px 0 8px; background: var(--sheet); border-top: 1px solid var(--hair); min-width: 0; overflow-x: auto; scrollbar-width: none; }
.add > * { flex: none; }
.add > .spacer { flex: 1 0 0; }
</style>
