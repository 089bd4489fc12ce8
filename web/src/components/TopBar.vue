<script setup lang="ts">
/** The bar all views share: which patch, which view, undo and redo, level, theme. */
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'

import PatchDialog from './dialogs/PatchDialog.vue'
import LevelMeter from './LevelMeter.vue'
import ListeningSign from './ListeningSign.vue'
import MessageList from './MessageList.vue'
import NameField from './NameField.vue'
import SaveState from './SaveState.vue'
import ToggleSwitch from './ToggleSwitch.vue'
import { isOfPatch } from '../composables/screen/isOfPatch'
import { useCompare } from '../composables/heard/useCompare'
import { useDocument } from '../stores/document'
import { useSaving } from '../stores/saving'
import { useSettings } from '../stores/settings'

const document = useDocument()
const saving = useSaving()
const settings = useSettings()
const route = useRoute()
const details = ref(false)
const { slot, hasOther, matched, lowered, flip, copy } = useCompare()
useEventListener(window, 'keydown', (event) => {
  const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, [role=dialog]') !== null
  if (event.code === 'KeyA' && !typing && !event.ctrlKey && !event.metaKey && !event.altKey && !event.repeat && inBuild.value) flip()
})
const inBuild = computed(() => isOfPatch(route.name) && document.view !== undefined && saving.id !== null)

function rename(name: string) {
  const view = document.view
  if (view) document.edit({ do: 'set_meta', meta: { name, tags: view.tags, note: view.note } })
}
</script>

<template>
  <header class="top">
    <RouterLink to="/" class="brand" aria-label="Zolvik, to the library">
      <svg width="22" height="16" viewBox="0 0 22 16" fill="none" stroke="currentColor" stroke-width="1.6" aria-hidden="true">
        <path d="M1 11c3 0 3-9 6-9s2.500 9 5.500 9 3-4 8.500-5M1 15h20" />
      </svg>
      Zolvik
    </RouterLink>
    <div class="patch">
      <template v-if="inBuild && document.view">
        <h1 class="note title"><NameField :name="document.view.name" label="Patch name" :most="document.rules?.name" @rename="rename" /></h1>
      </template>
      <SaveState :open="inBuild" />
    </div>
    <nav class="views" aria-label="Views">
      <RouterLink to="/" :class="{ here: route.name === 'library' }">Library</RouterLink>
      <template v-if="saving.last !== null">
        <RouterLink :to="`/patch/${saving.last}`" :class="{ here: route.name === 'build' }" title="Strips, routing, envelopes (Alt+1)">Build</RouterLink>
        <RouterLink :to="`/patch/${saving.last}/move`" :class="{ here: route.name === 'move' }" title="What moves, and what it moves (Alt+2)">Move</RouterLink>
        <RouterLink :to="`/patch/${saving.last}/finish`" :class="{ here: route.name === 'finish' }" title="Effects, after the voices (Alt+3)">Finish</RouterLink>
      </template>
    </nav>
    <ListeningSign v-if="inBuild" />
    <div class="tools">
      <template v-if="inBuild">
        <span class="seg" role="group" aria-label="Compare two states">
          <button v-for="name in ['a', 'b'] as const" :key="name" type="button" :aria-pressed="slot === name" :aria-label="`State ${name.toUpperCase()}`" :title="hasOther ? 'Flip between the two states (A)' : 'Keep this as A and go on in B (A)'" @click="slot !== name && flip()">{{ name.toUpperCase() }}</button>
        </span>
        <template v-if="hasOther">
          <ToggleSwitch :on="matched" label="Matched" :title="lowered ? `Turned down by ${lowered.toFixed(1)} dB to be as loud as the other` : 'Compared as loud as each other'" @switch="matched = $event" />
          <button type="button" class="icon-btn" :aria-label="`Copy ${slot.toUpperCase()} to ${slot === 'a' ? 'B' : 'A'}`" :title="`Copy ${slot.toUpperCase()} to ${slot === 'a' ? 'B' : 'A'}`" @click="copy"><i class="pi pi-clone" /></button>
        </template>
        <button type="button" class="btn" @click="details = true">About &amp; versions</button>
        <button type="button" class="icon-btn" aria-label="Undo" :title="document.view?.undo ? `Undo ${document.view.undo} (Ctrl+Z)` : 'Nothing to undo'" :disabled="!document.view?.undo" @click="document.undo()">
          <i class="pi pi-undo" />
        </button>
        <button type="button" class="icon-btn" aria-label="Redo" :title="document.view?.redo ? `Redo ${document.view.redo} (Ctrl+Shift+Z)` : 'Nothing to redo'" :disabled="!document.view?.redo" @click="document.redo()">
          <i class="pi pi-undo mirrored" />
        </button>
      </template>
      <LevelMeter />
      <MessageList />
      <button type="button" class="icon-btn" :aria-label="settings.dark ? 'Light' : 'Dark'" :title="settings.dark ? 'Light' : 'Dark'" @click="settings.switchTheme">
        <i class="pi" :class="settings.dark ? 'pi-sun' : 'pi-moon'" />
      </button>
    </div>
    <PatchDialog v-model:visible="details" />
  </header>
</template>

<style scoped>
.top { display: flex; align-items: center; background: var(--paper); border-bottom: 1px solid var(--rule); padding: 0 12px; gap: 14px; height: var(--top); }
.brand { display: flex; align-items: center; gap: 7px; font-weight: 600; font-size: var(--fs-15); color: inherit; text-decoration: none; }
.patch { overflow: hidden; display: flex; align-items: baseline; gap: 8px; padding-left: 14px; border-left: 1px solid var(--hair-2); flex: 1 1 0; min-width: 0; white-space: nowrap; }
.title { margin: 0; font-weight: 400; font-size: 16px; flex: 0 1 auto; min-width: min(5em, 100%); display: flex; }
@media (max-width: 900px) { .brand { font-size: 0; gap: 0; } .patch { padding-left: 8px; } .top { gap: 8px; padding: 0 8px; } .views a { padding: 0 8px 8px; } }
.views { display: flex; align-self: stretch; }
.views a { position: relative; display: flex; align-items: center; padding: 0 14px 8px; font-size: var(--fs-13); color: var(--ink-2); text-decoration: none; }
.views a::after { content: ''; position: absolute; left: 0; right: 0; bottom: 8px; height: 1px; background: var(--hair-2); }
.views a:first-child::after { left: 50%; }
.views a:last-child::after { right: 50%; }
.views a::before { content: ''; position: absolute; left: 50%; bottom: 6px; width: 5px; height: 5px; margin-left: -3px; border-radius: 50%; background: var(--paper); border: 1px solid var(--ink-3); z-index: 1; }
.views a.here { color: var(--ink); font-weight: 600; }
.views a.here::before { background: var(--ink); border-color: var(--ink); width: 9px; height: 9px; margin-left: -5px; bottom: 4px; }
.tools { display: flex; align-items: center; gap: 6px; flex: none; }
.mirrored { transform: scaleX(-1); }
@media (max-width: 760px), (max-height: 560px) { .top { flex-wrap: wrap; padding: 4px 8px; row-gap: 0; } .patch { flex: 1 1 120px; } .views { height: 36px; } .tools { flex: 0 1 auto; flex-wrap: wrap; } }
</style>
