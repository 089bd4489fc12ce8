<script setup lang="ts">
/** One effect in its chain: what it is, its level before and after, its share of the work, and the values that say most of it. */
import { computed, ref } from 'vue'

import ValueField from '../../components/field/ValueField.vue'
import type { EffectLevelView } from '../../engine/generated/EffectLevelView'
import type { EffectView } from '../../engine/generated/EffectView'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

const props = defineProps<{ effect: EffectView; level?: EffectLevelView; dragged: boolean }>()
defineEmits<{ take: [event: PointerEvent] }>()
const document = useDocument()
const finish = useFinish()
const row = ref<HTMLElement>()
const isSelected = computed(() => finish.selected === props.effect.id)
const share = (place: number) => `${(place * 100).toFixed(1)}%`
function only() {
  const now = document.view?.listening
  if (now) document.listen({ ...now, up_to: props.effect.last_heard ? null : props.effect.id })
}
function key(event: KeyboardEvent) {
  if (event.target !== row.value) return
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key] as -1 | 1 | undefined
  if (step !== undefined && event.altKey) finish.step(props.effect.id, step)
  else if (event.key === ' ' || event.key === 'Enter') finish.selected = props.effect.id
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    ref="row" class="row" :class="{ selected: isSelected, 'switched-off': !effect.works, dragged }" role="listitem" tabindex="0" :aria-label="`${effect.title}${effect.on ? '' : ', off'}`" :aria-current="isSelected"
    :data-testid="`effect-${effect.id}`" :title="effect.help" @pointerdown="finish.selected = effect.id" @focusin="finish.selected = effect.id" @keydown="key"
  >
    <i class="rail" aria-hidden="true" /><i class="knot" aria-hidden="true" />
    <div class="first">
      <span class="grip" title="Drag to put it elsewhere (Alt and ↑ or ↓)" @pointerdown.stop="$emit('take', $event)"><i class="pi pi-ellipsis-v" aria-hidden="true" /></span>
      <button type="button" class="toggle" role="switch" :aria-checked="effect.on" :aria-label="`${effect.title} on`" @click="document.edit({ do: 'switch_effect', effect: effect.id, on: !effect.on })"><i /></button>
      <b v-if="effect.differs" class="sign" :title="`${effect.differs} different from the base in this articulation`">≠</b>
      <b class="name" :title="effect.title">{{ effect.title }}</b><span class="muted words">{{ effect.words }}</span>
      <span class="room" />
      <button type="button" class="ms" :aria-pressed="effect.bypassed" :aria-label="`Bypass ${effect.title}`" :title="effect.bypassed ? 'Hear it again' : 'Bypass'" @click="document.toggle('bypassed', effect.id)">M</button>
      <button type="button" class="ms" :aria-pressed="effect.last_heard" :aria-label="`Hear only up to ${effect.title}`" :title="effect.last_heard ? 'Hear all again' : 'Hear only up to here, for now'" @click="only">↧</button>
      <span v-if="level" class="meter" :title="`Level before and after: ${level.change || 'silent'}`">
        <i :style="{ width: share(level.before) }" /><u :style="{ left: share(level.peak_before) }" />
        <i class="after" :style="{ width: share(level.after) }" /><u class="after" :style="{ left: share(level.peak_after) }" />
      </span>
      <span class="change" data-testid="change">{{ level?.change }}</span>
      <span class="share muted" :title="'Share of the engine’s time, about'">{{ effect.share ? `${(effect.share * 100).toFixed(1)} %` : '' }}</span>
    </div>
    <div v-if="effect.bands.length" class="values">
      <button v-for="(band, at) in effect.bands.slice(0, 4)" :key="at" type="button" class="band" :class="{ 'switched-off': !band.on }" @click="(finish.selected = effect.id), (finish.band = at)">
        <span class="muted">{{ at + 1 }} {{ band.label }}</span><b>{{ band.has_gain ? band.values.find((v) => v.address.param === 'band.gain_db')?.number : band.values[0]?.number }} <small>{{ band.has_gain ? 'dB' : band.values[0]?.unit }}</small></b>
      </button>
    </div>
    <div v-else class="values"><ValueField v-for="value in effect.main" :key="value.address.param" :value="value" /></div>
  </div>
</template>

<style scoped>
.row { position: relative; padding: 4px 8px 6px 30px; border-bottom: 1px solid var(--hair); cursor: default; }
.row.selected { background: var(--select); box-shadow: inset -4px 0 var(--ink); }
.row.dragged { opacity: 0.4; }
.row:focus-visible { outline-offset: -2px; }
.rail { position: absolute; left: 18px; top: 0; bottom: 0; width: 3px; background: var(--ink); }
.knot { position: absolute; left: 16px; top: 13px; width: 7px; height: 7px; border-radius: 50%; background: var(--paper); border: 1.5px solid var(--ink); }
:global(.second .row > .rail) { left: 10px; }
:global(.second .row > .knot) { left: 8px; }
.first { display: flex; align-items: center; gap: 5px; height: 24px; }
.grip { cursor: grab; width: 24px; margin: 0 -6px; height: 24px; display: grid; place-items: center; color: var(--ink-3); touch-action: none; flex: none; }
.grip .pi { font-size: var(--fs-12); }
.toggle { flex: none; }
.name { font-size: var(--fs-13); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; flex: 0 1 auto; min-width: 40px; max-width: 110px; }
.words { font-size: var(--fs-11); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; flex: 0 1 auto; min-width: 0; }
.room { flex: 1 0 0; }
.ms { width: 24px; height: 24px; border: 1px solid transparent; border-radius: var(--r); background: none; color: var(--ink-3); cursor: pointer; padding: 0; flex: none; }
.row:hover .ms, .row:focus-within .ms { border-color: var(--hair-2); background: var(--sheet); }
.row .ms[aria-pressed='true'] { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.meter { position: relative; width: 40px; height: 11px; flex: none; background: linear-gradient(var(--bar-track) 0 0) 0 0 / 100% 4px no-repeat, linear-gradient(var(--bar-track) 0 0) 0 100% / 100% 4px no-repeat; }
.meter i { position: absolute; left: 0; top: 0; height: 4px; background: var(--bar); }
.meter u { position: absolute; top: 0; width: 1.5px; height: 4px; background: var(--ink); }
.meter .after { top: 7px; }
.change { width: 42px; text-align: right; flex: none; font-size: var(--fs-11); white-space: nowrap; }
.share { width: 30px; text-align: right; flex: none; font-size: var(--fs-11); white-space: nowrap; }
.values { display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); gap: 4px; margin-top: 3px; }
.band { display: block; text-align: left; border: 0; background: var(--field); border-radius: var(--r); padding: 2px 5px 3px; min-width: 0; overflow: hidden; white-space: nowrap; text-overflow: ellipsis; cursor: pointer; }
.band span { display: block; font-size: var(--fs-11); overflow: hidden; text-overflow: ellipsis; }
.band small { font-weight: 400; font-size: var(--fs-11); }
</style>
