<script setup lang="ts">
/** Steps as bars: dragged over, typed, each with a glide of its own. */
import { computed, ref } from 'vue'

import TypedText from '../../components/field/TypedText.vue'
import ValueField from '../../components/field/ValueField.vue'
import { useGesture } from '../../composables/hand/useGesture'
import type { StepView } from '../../engine/generated/StepView'
import type { Turn } from '../../engine/generated/Turn'
import { useDocument } from '../../stores/document'

const props = defineProps<{ source: number; steps: StepView[] }>()
const document = useDocument()
const svg = ref<SVGSVGElement>()
const W = 272
const H = 100
const chosen = ref(0)
const levels = computed(() => props.steps.map((step) => document.newest(step.values[0]).value))
const width = computed(() => W / props.steps.length)
const at = computed(() => Math.min(chosen.value, props.steps.length - 1))

const { take } = useGesture<null>({
  slackPx: 0,
  move({ gesture }, event) {
    const box = svg.value!.getBoundingClientRect()
    const step = Math.max(0, Math.min(props.steps.length - 1, Math.floor(((event.clientX - box.left) / box.width) * props.steps.length)))
    const level = Math.max(0, Math.min(1, 1 - (event.clientY - box.top) / box.height))
    chosen.value = step
    const { address } = props.steps[step].values[0]
    document.byHand({ of: 'value', address }, { ask: 'edit', edit: { do: 'set_value', address, value: Math.round(level * 100) / 100 }, units: [], gesture })
  },
})
function key(event: KeyboardEvent) {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (step === undefined) return
  chosen.value = Math.max(0, Math.min(props.steps.length - 1, at.value + step))
  event.preventDefault()
}
const count = (text: string) => document.tried({ ask: 'type_step_count', source: props.source, text })
const turn = (how: Turn) => document.edit({ do: 'turn_shape', source: props.source, how })
</script>

<template>
  <section data-testid="steps">
    <h3>Steps <span>drag over them</span></h3>
    <svg ref="svg" class="sheet" :viewBox="`0 0 ${W} ${H}`" preserveAspectRatio="none" tabindex="0" role="application" aria-label="Steps: arrows choose one" @pointerdown="take($event, null)" @keydown="key">
      <path :d="`M0 ${H / 2}H${W}`" class="middle" />
      <rect v-for="(level, i) in levels" :key="i" :x="i * width + 0.5" :y="H - level * H" :width="Math.max(1, width - 1)" :height="Math.max(1.5, level * H)" :class="{ chosen: i === at }" class="bar" :data-step="i" />
    </svg>
    <div class="fields">
      <span class="count">Count <TypedText :shown="String(steps.length)" name="Number of steps" :take="count" /></span>
      <ValueField v-for="value in steps[at]?.values ?? []" :key="value.address.param" :value="value" />
    </div>
    <div class="line-of">
      <button type="button" class="btn" title="Upside down" @click="turn('flip')">Flip</button>
      <button type="button" class="btn" title="Backward" @click="turn('reverse')">Reverse</button>
      <button type="button" class="btn" title="The first half of them" @click="turn('halve')">Half</button>
      <button type="button" class="btn" title="All of them once more" @click="turn('double')">Double</button>
    </div>
  </section>
</template>

<style scoped>
.sheet { display: block; width: 100%; height: 104px; background: var(--sheet); border: 1px solid var(--hair-2); touch-action: none; cursor: ns-resize; }
.middle { stroke: var(--hair-2); }
.bar { fill: var(--ink-3); }
.bar.chosen { fill: var(--ink); }
.fields { display: grid; grid-template-columns: auto repeat(2, minmax(0, 1fr)); gap: 6px; margin-top: 6px; align-items: center; }
.count { display: flex; gap: 5px; align-items: center; }
.count > :last-child { width: 44px; background: var(--field); border-radius: var(--r); padding: 0 6px; }
.line-of { display: flex; gap: 6px; margin-top: 6px; }
</style>
