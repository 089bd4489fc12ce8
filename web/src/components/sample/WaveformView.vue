<script setup lang="ts">
/** The waveform of a recording; start, end and loop points are dragged on it. */
import { computed, shallowRef, watch } from 'vue'

import { useGesture } from '../../composables/hand/useGesture'
import { workers, Superseded } from '../../engine/workers'
import type { ParamId } from '../../engine/generated/ParamId'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView }>()
const document = useDocument()
const WIDTH = 248
const HEIGHT = 64
const peaks = shallowRef<Float32Array>()
const lengthS = shallowRef(0)
const missing = shallowRef('')
watch(
  () => [props.strip.id, props.strip.wave_label, props.strip.unheard?.why].join(),
  async () => {
    try {
      const found = await workers().waveform(document.text(), props.strip.id, WIDTH)
      peaks.value = found.peaks
      lengthS.value = found.lengthS
      missing.value = ''
    } catch (error) {
      if (error instanceof Superseded) return
      peaks.value = undefined
      missing.value = error instanceof Error ? error.message : String(error)
    }
  },
  { immediate: true },
)
const area = computed(() => {
  const list = peaks.value
  if (!list) return ''
  const y = (level: number) => (HEIGHT / 2 - (HEIGHT / 2 - 2) * level).toFixed(1)
  const top = Array.from({ length: list.length / 2 }, (_, i) => `${i} ${y(list[2 * i])}`)
  const foot = Array.from({ length: list.length / 2 }, (_, i) => `${i} ${y(list[2 * i + 1])}`).reverse()
  return `M${top.join('L')}L${foot.join('L')}Z`
})
const PLACES: { param: ParamId; loop: boolean }[] = [
  { param: 'sample.start', loop: false }, { param: 'sample.end', loop: false },
  { param: 'sample.loop_start', loop: true }, { param: 'sample.loop_end', loop: true },
]
const places = computed(() => PLACES.flatMap((place) => {
  const value = props.strip.values.find((v) => v.address.param === place.param)
  return value ? [{ ...place, value, x: value.value * WIDTH }] : []
}))
const at = (param: ParamId) => places.value.find((place) => place.param === param)?.x
const outside = computed(() => ({ before: at('sample.start') ?? 0, after: at('sample.end') ?? WIDTH }))
const loop = computed(() => {
  const [from, to] = [at('sample.loop_start'), at('sample.loop_end')]
  return from === undefined || to === undefined ? undefined : { from, to }
})
// the crossfade is drawn before the loop's end
const fade = computed(() => {
  const value = props.strip.values.find((v) => v.address.param === 'sample.crossfade_s')
  return loop.value && value && lengthS.value > 0 ? Math.min((value.value / lengthS.value) * WIDTH, loop.value.to - loop.value.from) : 0
})

const { take } = useGesture<{ param: ParamId; start: number }>({
  move({ what: { param, start }, x, gesture }, event) {
    const value = props.strip.values.find((v) => v.address.param === param)
    if (value) document.drag({ address: value.address, units: [], start, moved: (event.clientX - x) / WIDTH, fine: event.shiftKey, gesture })
  },
})
</script>

<template>
  <p v-if="missing" class="missing" role="alert">{{ missing }}</p>
  <svg v-else class="waveform" :width="WIDTH" :height="HEIGHT" :aria-label="`Waveform of ${strip.wave_label}, ${lengthS.toFixed(2)} seconds`" data-testid="waveform">
    <path :d="`M0 ${HEIGHT / 2}H${WIDTH}`" class="zero" />
    <path :d="area" fill="currentColor" />
    <rect v-if="loop" :x="loop.from" y="0" :width="loop.to - loop.from" height="7" class="loop" />
    <path v-if="loop && fade > 0" :d="`M${loop.to - fade} 7H${loop.to}V${HEIGHT}Z`" class="fade" />
    <rect x="0" y="0" :width="outside.before" :height="HEIGHT" class="out" />
    <rect :x="outside.after" y="0" :width="Math.max(0, WIDTH - outside.after)" :height="HEIGHT" class="out" />
    <g v-for="place in places" :key="place.param" class="place" :class="{ loop: place.loop }" :data-place="place.param" @pointerdown="take($event, { param: place.param, start: place.value.value })">
      <title>{{ place.value.label }}: drag</title>
      <rect :x="place.x - 12" :y="place.loop ? 0 : 24" width="24" :height="place.loop ? 24 : HEIGHT - 24" fill="transparent" />
      <path :d="`M${place.x} 0V${HEIGHT}`" />
      <rect :x="place.x - 3.5" :y="place.loop ? 0 : HEIGHT - 7" width="7" height="7" class="knob" />
    </g>
  </svg>
</template>

<style scoped>
.waveform { display: block; margin: 6px; background: var(--sheet); border-radius: var(--r); color: var(--c); touch-action: none; overflow: visible; }
.zero { stroke: var(--hair-2); }
.out { fill: var(--paper); opacity: 0.75; }
.loop { fill: var(--swept); opacity: 0.35; }
.fade { fill: var(--swept); opacity: 0.25; }
.place { cursor: ew-resize; }
.place path { stroke: var(--ink); stroke-width: 1.2; }
.place.loop path { stroke-dasharray: 3 2; }
.knob { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.5; }
.missing { color: var(--warn); background: var(--warn-bg); padding: 6px 8px; border-radius: var(--r); }
</style>
