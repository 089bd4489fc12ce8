<script setup lang="ts">
/** The output as a row: the whole patch in a few words. A click selects the patch. */
import { computed } from 'vue'

import type { DocumentView } from '../../engine/generated/DocumentView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ view: DocumentView; target: boolean }>()
const document = useDocument()
const SHOWN = ['voice.polyphony', 'unison.copies', 'voice.trim_db'] as const
const values = computed(() => SHOWN.flatMap((param) => props.view.values.find((value) => value.address.param === param) ?? []))
const quality = computed(() => props.view.choices.find((choice) => choice.id === 'voice.quality'))
</script>

<template>
  <div class="output" :class="{ target, selected: document.selected === null }">
    <button type="button" class="row" :aria-pressed="document.selected === null" title="The whole patch: voice, level, quality, tuning (Escape)" @click="document.select(null)">
      <span class="badge">→</span><b class="name">Output</b><span class="muted">the whole patch</span>
      <span class="words">
        <span v-for="value in values" :key="value.address.param">{{ value.label }} <b>{{ value.number }}</b>{{ value.unit && ` ${value.unit}` }}</span>
        <span v-if="quality">Quality <b>{{ quality.options[quality.at] }}</b></span>
        <span class="clip">Tuning <b>{{ view.scale ?? '440 Hz' }}</b></span>
      </span>
    </button>
  </div>
</template>

<style scoped>
.output { position: sticky; bottom: 0; z-index: 6; margin-left: var(--gutter); border-top: 4px solid var(--ink); border-bottom: 1px solid var(--hair-2); background: var(--paper); }
.output.selected { background: var(--select); }
.output.target { outline: 2px solid var(--swept); outline-offset: -2px; }
.row { width: 100%; height: 27px; display: flex; gap: 8px; align-items: center; padding: 0 10px 0 4px; border: 0; background: none; cursor: pointer; white-space: nowrap; overflow: hidden; text-align: left; }
.badge { margin: 0 3px 0 4px; }
.name { font-size: 14px; }
.words { display: flex; gap: 16px; margin-left: auto; color: var(--ink-2); min-width: 0; overflow: hidden; }
.words b { color: var(--ink); }
.clip { overflow: hidden; text-overflow: ellipsis; }
</style>
