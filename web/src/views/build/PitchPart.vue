<script setup lang="ts">
/** Tuning of the selected operators, what the ratios make, and ratios nearby that would sound otherwise. */
import { computed, ref } from 'vue'

import SheetPart from './SheetPart.vue'
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { InspectView } from '../../engine/generated/InspectView'
import type { SectionView } from '../../engine/generated/SectionView'
import type { StripView } from '../../engine/generated/StripView'
import type { ValueView } from '../../engine/generated/ValueView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ section: SectionView; values: ValueView[]; choices: ChoiceView[]; units: number[]; strip: StripView; inspected?: InspectView; noteName: string }>()
const document = useDocument()
const ratio = computed(() => props.values.find((v) => v.address.param === 'operator.ratio'))
const octave = (octaves: number) => document.edit({ do: 'shift_octaves', units: document.units, octaves })
const offering = ref(false)

const spread = ref('12')
const spreadProblem = ref('')
/** Units in the order of the strips, so that the lowest strip is detuned lowest. */
function detune() {
  const cents = Number(spread.value.replace(',', '.').replace(/\s*(ct|cents)$/, ''))
  spreadProblem.value = Number.isFinite(cents) ? '' : 'type cents such as 12'
  if (spreadProblem.value) return
  const order = document.view?.strips.map((strip) => strip.id).reverse() ?? []
  document.edit({ do: 'spread_detune', units: order.filter((id) => document.units.includes(id)), spread_cents: cents })
}
</script>

<template>
  <SheetPart :section="section" :values="values" :choices="choices" :units="units" :note="`${strip.hz} · ${strip.note} at ${noteName}`">
    <template #after>
      <div class="octaves">
        <span class="muted">Octave</span>
        <button type="button" class="btn" aria-label="An octave down" @click="octave(-1)">−</button>
        <button type="button" class="btn" aria-label="An octave up" @click="octave(1)">+</button>
      </div>
    <div v-if="document.others.length" class="together">
      <label for="spread">Detune {{ document.units.length }} together</label>
      <input id="spread" v-model="spread" aria-label="Cents from lowest to highest" @keydown.enter="detune" @keydown.stop /> ct
      <button type="button" class="btn" @click="detune">Spread</button>
      <span v-if="spreadProblem" class="problem" role="alert">{{ spreadProblem }}</span>
    </div>
    <p v-if="inspected?.character" class="character" data-testid="character">{{ inspected.character }}</p>
    <template v-if="inspected && inspected.offers.length">
      <button type="button" class="link-btn" :aria-expanded="offering" @click="offering = !offering">Ratios nearby, on {{ inspected.offered_for }}</button>
      <div v-if="offering" class="offers">
        <button v-for="offer in inspected.offers" :key="offer.written" type="button" :title="offer.words" @click="ratio && document.type(ratio.address, String(offer.ratio))">
          <b>{{ offer.written }}</b><span>{{ offer.words }}</span>
        </button>
      </div>
    </template>
    </template>
  </SheetPart>
</template>

<style scoped>
.octaves { display: flex; align-items: center; gap: 6px; margin-top: 6px; }
.octaves .btn { padding: 0 9px; }
.together { display: flex; align-items: center; gap: 6px; margin-top: 6px; flex-wrap: wrap; }
.together input { width: 46px; height: 24px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--field); padding: 0 4px; font-weight: 600; text-align: right; }
.problem { color: var(--warn); }
.character { margin: 7px 0 0; font-family: var(--font-note); font-style: italic; font-size: var(--fs-13); color: var(--ink-2); line-height: 1.3; }
.link-btn { font-size: var(--fs-11); }
.offers { display: grid; gap: 1px; }
.offers button { display: grid; grid-template-columns: 44px 1fr; gap: 6px; min-height: 24px; align-items: center; border: 0; background: none; text-align: left; cursor: pointer; padding: 0 4px; border-radius: var(--r); }
.offers button:hover { background: var(--field-hover); }
.offers span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; color: var(--ink-2); font-size: var(--fs-11); }
</style>
