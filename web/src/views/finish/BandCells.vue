<script setup lang="ts">
/** The bands of an EQ side by side, each with its type, switch and values. */
import ValueField from '../../components/field/ValueField.vue'
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { EffectView } from '../../engine/generated/EffectView'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

const props = defineProps<{ effect: EffectView }>()
const document = useDocument()
const finish = useFinish()
const choose = (at: number, choice: ChoiceView, event: Event) =>
  document.edit({ do: 'choose_band', effect: props.effect.id, at, choice: choice.id, to: Number((event.target as HTMLSelectElement).value) })
const isAlone = (at: number) => {
  const alone = document.view?.listening.band_alone
  return alone?.[0] === props.effect.id && alone[1] === at
}
function hear(at: number) {
  const now = document.view?.listening
  if (now) document.listen({ ...now, band_alone: isAlone(at) ? null : [props.effect.id, at] })
}
</script>

<template>
  <div class="bands" role="group" aria-label="Bands">
    <div v-for="(band, at) in effect.bands" :key="at" class="cell" :class="{ on: finish.band === at, 'switched-off': !band.on }" :data-testid="`cell-${at}`" @pointerdown="finish.band = at" @focusin="finish.band = at">
      <div class="top">
        <button type="button" class="number" role="switch" :aria-checked="band.on" :title="band.on ? 'Switch this band off' : 'Switch it on'" @click="document.edit({ do: 'switch_band', effect: effect.id, at, on: !band.on })">{{ at + 1 }}</button>
        <select v-for="choice in band.choices.slice(0, 1)" :key="choice.id" :value="choice.at" :aria-label="`${choice.label} of band ${at + 1}`" :title="choice.help" @change="choose(at, choice, $event)">
          <option v-for="(option, n) in choice.options" :key="option" :value="n">{{ option }}</option>
        </select>
        <button type="button" class="ear" :aria-pressed="isAlone(at)" :aria-label="`Hear band ${at + 1} alone`" title="Hear only what lies in this band, for now" @click="hear(at)">S</button>
        <button v-if="effect.bands.length > 1" type="button" class="icon-btn out" :aria-label="`Take band ${at + 1} out`" title="Take it out" @click="document.edit({ do: 'remove_band', effect: effect.id, at })"><i class="pi pi-times" /></button>
      </div>
      <div class="pair" :class="{ one: band.values.length + band.choices.length < 4 }"><ValueField v-for="value in band.values" :key="value.address.param" :value="value" />
        <select v-for="choice in band.choices.slice(1)" :key="choice.id" :value="choice.at" :aria-label="`${choice.label} of band ${at + 1}`" :title="choice.help" @change="choose(at, choice, $event)">
          <option v-for="(option, n) in choice.options" :key="option" :value="n">{{ option }}</option>
        </select>
      </div>
    </div>
    <button v-if="effect.takes_band" type="button" class="btn add" title="A bell amid the widest gap; a double click in the drawing makes one there" aria-label="Add a band" @click="finish.addBand(effect)">+</button>
  </div>
</template>

<style scoped>
.bands { display: flex; gap: 6px; padding: 4px 10px 6px; overflow-x: auto; flex: none; }
.cell { flex: 1 1 104px; min-width: 104px; max-width: 160px; display: grid; grid-template-columns: minmax(0, 1fr); gap: 3px; align-content: start; padding-top: 3px; border-top: 3px solid var(--hair-2); }
.cell.on { border-top-color: var(--ink); background: var(--select); }
.pair { display: grid; grid-template-columns: repeat(2, minmax(0, 1fr)); gap: 3px; }
.pair > :deep(.field) { min-width: 0; }
.pair > :deep(.field:first-child) { grid-column: 1 / -1; }
.pair.one > :deep(.field) { grid-column: 1 / -1; }
.top { position: relative; display: flex; align-items: center; gap: 3px; }
.number { width: 18px; height: 20px; border: 1px solid var(--ink); border-radius: var(--r); background: var(--sheet); font-weight: 600; padding: 0; cursor: pointer; flex: none; }
.number[aria-checked='true'] { background: var(--ink); color: var(--on-ink); }
select { min-width: 0; flex: 1; height: 22px; border: 0; background: none; font-weight: 600; cursor: pointer; }
.ear { width: 18px; height: 20px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); color: var(--ink-2); padding: 0; cursor: pointer; flex: none; }
.ear[aria-pressed='true'] { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.pair select { width: 100%; background: var(--field); font-weight: 400; height: auto; }
/* Over the end of the kind, so that the kind's whole name stands when nobody takes the band out. */
.out { position: absolute; right: 21px; width: 18px; background: var(--sheet); opacity: 0; }
.cell:hover .out, .cell:focus-within .out { opacity: 1; }
.add { align-self: center; }
</style>
