<script setup lang="ts">
/** Piano keys for mouse and touch: several fingers, sliding, velocity by how far down the key is struck. */
import { computed } from 'vue'

import { useDocument } from '../../stores/document'

const props = defineProps<{ from: number; to: number; held: ReadonlySet<number>; marked?: number; label: string; names?: boolean; switching?: ReadonlyMap<number, string> }>()
const emit = defineEmits<{ press: [key: number, velocity: number]; release: [key: number] }>()

const document = useDocument()
const BLACK = [1, 3, 6, 8, 10]
const isBlack = (key: number) => BLACK.includes(key % 12)
const keys = computed(() => Array.from({ length: props.to - props.from + 1 }, (_, i) => props.from + i))
const whites = computed(() => keys.value.filter((key) => !isBlack(key)))
const place = computed(() => {
  const width = 100 / whites.value.length
  return new Map(keys.value.map((key) => {
    const before = whites.value.filter((white) => white < key).length
    return [key, isBlack(key) ? { left: before * width - width * 0.3, width: width * 0.6 } : { left: before * width, width }]
  }))
})
const style = (key: number) => ({ left: `${place.value.get(key)?.left}%`, width: `${place.value.get(key)?.width}%` })

const fingers = new Map<number, number>()
function keyUnder(event: PointerEvent): HTMLElement | null {
  // the keys may stand in a window of their own
  const hit = (event.currentTarget as Element).ownerDocument.elementFromPoint(event.clientX, event.clientY)
  return hit instanceof HTMLElement ? hit.closest<HTMLElement>('[data-key]') : null
}
function strike(event: PointerEvent) {
  const hit = keyUnder(event)
  const key = hit ? Number(hit.dataset.key) : undefined
  const before = fingers.get(event.pointerId)
  if (key === before) return
  if (before !== undefined) emit('release', before)
  if (hit === null || key === undefined) {
    fingers.delete(event.pointerId)
    return
  }
  const box = hit.getBoundingClientRect()
  const depth = (event.clientY - box.top) / box.height
  fingers.set(event.pointerId, key)
  const { softest, hardest } = document.rules?.keys ?? { softest: 1, hardest: 127 }
  emit('press', key, softest + Math.min(1, Math.max(0, depth)) * (hardest - softest))
}
function down(event: PointerEvent) {
  if (event.target instanceof HTMLElement) event.target.releasePointerCapture(event.pointerId)
  strike(event)
}
function move(event: PointerEvent) {
  if (fingers.has(event.pointerId)) strike(event)
}
function lift(event: PointerEvent) {
  const key = fingers.get(event.pointerId)
  if (key !== undefined) emit('release', key)
  fingers.delete(event.pointerId)
}
</script>

<template>
  <div class="keys" role="group" :aria-label="label" @pointerdown.prevent="down" @pointermove="move" @pointerup="lift" @pointercancel="lift" @pointerleave="lift">
    <div
      v-for="key in keys" :key="key" class="key" :class="{ black: isBlack(key), held: held.has(key), marked: key === marked, switches: switching?.has(key) }"
      :data-key="key" :style="style(key)" :title="switching?.has(key) ? `goes to ${switching.get(key)}` : undefined"
    >
      <span v-if="names && key % 12 === 0">C{{ Math.floor(key / 12) - 1 }}</span>
    </div>
  </div>
</template>

<style scoped>
.keys { position: relative; height: 100%; touch-action: none; user-select: none; border: 1px solid var(--hair-2); border-radius: var(--r); overflow: hidden; background: var(--key-w); }
.key { position: absolute; top: 0; bottom: 0; border-right: 1px solid var(--hair-2); background: var(--key-w); display: flex; align-items: flex-end; justify-content: center; }
.key span { font-size: var(--fs-11); color: var(--key-t); padding-bottom: 3px; pointer-events: none; }
.key.black { bottom: 40%; background: var(--key-b); z-index: 1; border: 0; border-radius: 0 0 var(--r) var(--r); }
.key.held { background: var(--key-on); }
.key.switches { background: repeating-linear-gradient(45deg, var(--key-on) 0 2px, transparent 2px 5px) var(--key-w); }
.key.marked::after { content: ''; position: absolute; left: 15%; right: 15%; bottom: 0; height: 4px; background: var(--swept); }
</style>
