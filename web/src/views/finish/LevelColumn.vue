<script setup lang="ts">
/** How loud what leaves is, how wide by bands, what the selected effect changes, and what is heard. */
import { computed, shallowRef, watch } from 'vue'

import LinkRow from '../../components/moving/LinkRow.vue'
import type { Unfolded } from '../../engine/workers'
import type { BandLevelView } from '../../engine/generated/BandLevelView'
import { useHeld } from '../../composables/hand/useHeld'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'
import { useSettings } from '../../stores/settings'
import ValueField from '../../components/field/ValueField.vue'

const props = defineProps<{ picture?: Unfolded; exact: boolean; busy?: boolean }>()
const emit = defineEmits<{ peak: [] }>()
const document = useDocument()
const finish = useFinish()
const settings = useSettings()
const level = computed(() => props.picture?.level)
// while something is dragged the last ones stay
const bands = shallowRef<BandLevelView[]>([])
watch(() => props.picture?.levels, (now) => {
  if (now?.length) bands.value = now
}, { immediate: true })
const links = computed(() => document.view?.links.filter(({ to }) => to.id === finish.selected) ?? [])
const trim = computed(() => document.value('voice.trim_db'))
const held = useHeld()
/** Those of the selected chain, or all. */
const many = computed(() => (finish.picked === null ? finish.effects.map(({ id }) => id) : finish.many))
</script>

<template>
  <div>
    <section class="level">
      <h3>Level <span>of {{ settings.pictured }}, {{ finish.inFinish === 'finished' ? 'finished' : 'voices alone' }}</span></h3>
      <div v-if="level" class="two">
        <p>Loudness<b :class="{ stale: !exact }" data-testid="loudness-words">{{ level.loudness }}</b></p>
        <p>True peak<b :class="{ hot: level.over, stale: !exact }">{{ level.true_peak }}</b></p>
      </div>
      <div class="line">
        <ValueField v-if="trim" :value="trim" inline />
        <button type="button" class="btn" :aria-busy="busy" :title="`Sets the patch’s level so that a file of ${settings.pictured} peaks at −1 dB`" @click="emit('peak')">{{ busy ? 'Measuring…' : 'Peak to −1 dB' }}</button>
      </div>
    </section>
    <section>
      <h3>By band <span>{{ !exact ? 'previous; measuring' : finish.effect ? `what ${finish.effect.title} changes` : 'of what leaves' }}</span></h3>
      <table :aria-busy="!exact">
        <thead><tr><th>Band</th><th class="n">width</th><th class="n">correlation</th><th v-if="finish.effect" class="n">change</th></tr></thead>
        <tbody>
          <tr v-for="band in bands" :key="band.label" :class="{ hot: band.wide_low }">
            <td>{{ band.label }} <span class="muted">{{ band.span }}</span></td>
            <td class="n"><i class="bar"><i :style="{ width: `${band.width * 100}%` }" /></i>{{ band.width_words }}</td>
            <td class="n">{{ band.correlation }}</td>
            <td v-if="finish.effect" class="n" data-testid="band-change">{{ band.change }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="bands.some((band) => band.wide_low)" class="hot note-line">The lows are not in the middle. A Stereo effect holds them mono below a frequency.</p>
    </section>
    <section>
      <h3>Compare <span>loudness-matched</span></h3>
      <button type="button" class="btn" :disabled="!many.length" :class="{ on: held.holding.value }" title="O does the same: with a chain selected without its effects, with nothing selected without all" @pointerdown="held.press(many)" @pointerup="held.release()" @pointercancel="held.release()" @keydown.enter.prevent="held.press(many)" @keyup.enter="held.release()">Hold to hear without {{ finish.picked ? finish.chain?.name : 'all effects' }}</button>
    </section>
    <section v-if="finish.effect" data-testid="effect-links">
      <h3>Modulated by <span>{{ links.length ? '' : 'nothing: L on a value' }}</span></h3>
      <LinkRow v-for="link in links" :key="link.id" :link="link" :sources="document.view?.sources ?? []" />
    </section>
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
.two p { margin: 0; color: var(--ink-2); }
.two b { display: block; font-size: var(--fs-20); color: var(--ink); white-space: nowrap; }
.hot, .two .hot { color: var(--warn); }
.two .stale { font-style: italic; color: var(--ink-2); }
.line { display: flex; gap: 6px; align-items: center; margin-top: 6px; }
.line > :deep(.field) { flex: 1; min-width: 0; }
table { width: 100%; border-collapse: collapse; font-size: var(--fs-11); }
th { font-weight: 400; color: var(--ink-3); text-align: left; }
td { padding: 2px 0; white-space: nowrap; }
.n { text-align: right; }
td:first-child { font-size: var(--fs-12); }
td .muted { font-size: var(--fs-11); }
.bar { display: inline-block; width: 36px; height: 6px; margin-right: 5px; background: var(--bar-track); vertical-align: middle; }
.bar i { display: block; height: 100%; background: var(--bar); }
.hot .bar i { background: var(--warn); }
.note-line { margin: 4px 0 0; font-size: var(--fs-11); }
</style>
