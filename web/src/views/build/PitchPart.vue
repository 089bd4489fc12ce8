<script setup lang="ts">
/** Tuning of the selected operators, what the ratios make, and ratios nearby that would sound otherwise. */
import { computed, ref } from 'vue'

import ValueField from '../../components/field/ValueField.vue'
import type { InspectView } from '../../engine/generated/InspectView'
import type { ParamId } from '../../engine/generated/ParamId'
import type { StripView } from '../../engine/generated/StripView'
import type { TunedBy } from '../../engine/generated/TunedBy'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView; inspected?: InspectView; noteName: string }>()
const document = useDocument()
const WAYS: { by: TunedBy; label: string }[] = [{ by: 'ratio', label: 'Ratio' }, { by: 'semitones', label: 'Semitones' }, { by: 'fixed', label: 'Fixed' }]
const PITCH: ParamId[] = ['operator.ratio', 'operator.semitones', 'operator.fixed_hz', 'operator.detune_cents', 'operator.offset_hz']
const fields = computed(() => PITCH.map((param) => props.strip.values.find((v) => v.address.param === param)).filter((v) => v !== undefined))
const ratio = computed(() => props.strip.values.find((v) => v.address.param === 'operator.ratio'))
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
  <section>
    <h3>Pitch <span data-testid="pitch">{{ strip.hz }} · {{ strip.note }} at {{ noteName }}</span></h3>
    <div class="ways">
      <span class="seg" role="group" aria-label="Way of tuning">
        <button v-for="way in WAYS" :key="way.by" type="button" :aria-pressed="strip.tuned_by === way.by" @click="document.edit({ do: 'tune_by', units: document.units, by: way.by })">{{ way.label }}</button>
      </span>
      <span class="spacer" />
      <span class="muted">Oct</span>
      <button type="button" class="btn" aria-label="An octave down" @click="octave(-1)">−</button>
      <button type="button" class="btn" aria-label="An octave up" @click="octave(1)">+</button>
    </div>
    <div class="three"><ValueField v-for="v in fields" :key="v.address.param" :value="v" /></div>
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
  </section>
</template>

<style scoped>
.ways .seg { flex: none; }
.ways { display: flex; align-items: center; gap: 6px; margin-bottom: 6px; }
.ways .btn { padding: 0 9px; }
.three { display: grid; grid-template-columns: repeat(3, 1fr); gap: 6px; }
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
