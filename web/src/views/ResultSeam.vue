<script setup lang="ts">
/** The seam above the result: what it shows, its levels, and what can be done about them. */
import { computed } from 'vue'

import type { Unfolded } from '../engine/workers'
import { useFinish } from '../stores/finish'
import { useSettings } from '../stores/settings'

const props = defineProps<{ picture: Unfolded | undefined; exact: boolean; inFinish: boolean; trimming: boolean }>()
const emit = defineEmits<{ trim: [] }>()
/** Why it sounds so, in place of the inspector. */
const why = defineModel<boolean>('why', { required: true })

const BESIDE = [
  { id: 'spectrum', help: 'The spectrum at the cursor, and what makes its partials' },
  { id: 'cycles', help: 'The waveform at the cursor, down to single cycles' },
  { id: 'stereo', help: 'Which frequencies stand where between left and right' },
] as const

const finish = useFinish()
const settings = useSettings()
/** What the picture shows: what leaves, or the voices alone. */
const showing = computed({
  get: () => (props.inFinish ? finish.inFinish : finish.inBuild),
  set: (shown) => (props.inFinish ? (finish.inFinish = shown) : (finish.inBuild = shown)),
})
const level = computed(() => props.picture?.level)
/** Of what the level is: where the voices alone are shown, not of what leaves. */
const measured = computed(() => `${settings.pictured}${showing.value === 'voice' && finish.effects.length ? ', before effects' : ''}`)
</script>

<template>
  <div class="seam" title="Drag to share the room; double click lets the result take what is free">
    <span class="title">Result</span>
    <span v-if="finish.effects.length" class="seg" role="group" aria-label="What the result shows" @pointerdown.stop>
      <button type="button" :aria-pressed="showing === 'voice'" title="The voices, before all effects" @click="showing = 'voice'">voice</button>
      <button type="button" :aria-pressed="showing === 'finished'" title="What leaves, after all effects" @click="showing = 'finished'">finished</button>
    </span>
    <span v-if="!inFinish" class="seg beside" role="group" aria-label="What stands beside the result" @pointerdown.stop>
      <button v-for="one in BESIDE" :key="one.id" type="button" :aria-pressed="settings.beside === one.id" :title="one.help" @click="settings.beside = one.id">{{ one.id }}</button>
    </span>
    <span class="muted what">{{ inFinish ? 'gain reduction, spectrogram, loudness' : '' }}</span>
    <span class="levels" data-testid="levels">
      <template v-if="level && !inFinish">
        <span class="word">True peak of {{ measured }} </span><b :class="{ hot: level.over, stale: !exact }" :title="`True peak of ${measured}`">{{ level.true_peak }}</b>
        <span class="word">Loudness </span><b :class="{ stale: !exact }" :title="`Loudness of ${measured}`">{{ level.loudness }}</b>
      </template>
    </span>
    <button
      type="button" class="link-btn" :aria-expanded="why" title="Which combination of operators makes which partial"
      @pointerdown.stop @click="why = !why"
    >Partials explained</button>
    <button
      v-if="!inFinish" type="button" class="link-btn" :aria-busy="trimming"
      :title="`Sets the patch's level so that a file of ${settings.pictured}, with all effects, peaks at −1 dB`"
      @pointerdown.stop @click="emit('trim')"
    >{{ trimming ? 'Measuring…' : 'Set peak to −1 dB' }}</button>
  </div>
</template>

<style scoped>
.seam { display: flex; align-items: center; gap: 10px; padding-right: 14px; margin-left: var(--gutter); border-top: 4px solid var(--ink); cursor: row-resize; touch-action: none; user-select: none; white-space: nowrap; overflow: hidden; }
.title { font-weight: 600; font-size: 14px; padding-left: 8px; }
.seam > .seg { flex: none; height: 20px; }
.what { overflow: hidden; text-overflow: ellipsis; min-width: 0; }
@media (max-width: 1200px) { .what, .word { display: none; } }
.word { margin-right: 4px; }
@media (max-width: 800px) { .beside { display: none; } }
.levels { flex: none; margin-left: auto; color: var(--ink-2); white-space: pre-wrap; }
.levels b { color: var(--ink); margin-right: 6px; }
.levels .hot { color: var(--warn); }
.levels .stale { font-style: italic; font-weight: 400; color: var(--ink-2); }
.link-btn { min-height: 20px; }
</style>
