<script setup lang="ts">
/** What is heard now: both channels, voices, and whether the safety limiter acted. */
import { useIntervalFn, useRafFn } from '@vueuse/core'
import { ref } from 'vue'

import { useOften } from '../composables/heard/useWhileAudible'
import { useDocument } from '../stores/document'
import { usePlaying } from '../stores/playing'

const document = useDocument()
const playing = usePlaying()
const often = useOften()
const left = ref(0)
const right = ref(0)
/** The highest sample lately, as it is told in words. */
let told = NaN
const meter = ref(0)
const peakWords = ref('')
const voices = ref(0)
const limited = ref(false)
let limitedAt = -Infinity
const load = ref(0)
/** Blocks that came too late, and when the last one did. */
const lateBlocks = ref(0)
let late = 0
const keyToSoundMs = ref(0)
let lateAt = -Infinity
/** Notes let go lately, or quality lowered: the machine cannot keep up. */
const overload = ref('')
let letGo = 0
let letGoAt = -Infinity
let recent = 0
let held = 0

const SAMPLES = 512
const samples = new Float32Array(SAMPLES)
const line = ref('')
let drawn = false
/** The live waveform, from an upward zero crossing so that it stands still. */
function draw(sounding: boolean) {
  drawn = sounding
  playing.scope(samples)
  let start = 1
  while (start < SAMPLES / 2 && !(samples[start - 1] < 0 && samples[start] >= 0)) start++
  let path = ''
  for (let x = 0; x <= 64; x++) {
    const sample = samples[start + Math.floor((x / 64) * (SAMPLES / 2 - 2))] ?? 0
    path += `${x ? 'L' : 'M'}${x} ${(12 - Math.max(-1, Math.min(1, sample * 1.6)) * 11).toFixed(1)}`
  }
  line.value = path
}

/** While nothing is heard it is enough to look now and then. */
const LOOK_MS = 50
/** How much of the bar a level falls in a second. */
const FALL = 0.72
let lookedAt = 0
/** So long after the last sound there is still something to show: a level that falls, words that are held. */
const AFTER_MS = 2000
let soundedAt = -Infinity
const frames = useRafFn(({ timestamp }) => look(timestamp), { fpsLimit: often, immediate: false })
const looks = useIntervalFn(() => look(performance.now()), LOOK_MS)
function look(timestamp: number) {
  const now = playing.levels()
  const fallen = (FALL * Math.max(0, Math.min(100, timestamp - lookedAt))) / 1000
  lookedAt = timestamp
  left.value = Math.max(now.meterLeft, left.value - fallen)
  right.value = Math.max(now.meterRight, right.value - fallen)
  const peak = Math.max(now.peakLeft, now.peakRight)
  if (Number.isNaN(told) || peak > told || timestamp - held > 1500) {
    if (peak !== told) {
      const answer = document.ask({ ask: 'level_words', amplitude: peak })
      if (answer.is === 'text') peakWords.value = answer.text
    }
    told = peak
    meter.value = Math.max(now.meterLeft, now.meterRight)
    held = timestamp
  }
  voices.value = now.voices
  if (now.guard < 0.999) limitedAt = timestamp
  keyToSoundMs.value = now.keyToSoundS * 1000
  load.value = now.voices > 0 ? Math.round(now.load * 100) : 0
  if (now.late !== late) {
    lateBlocks.value = (timestamp - lateAt < 4000 ? lateBlocks.value : 0) + now.late - late
    late = now.late
    lateAt = timestamp
  } else if (timestamp - lateAt > 4000) lateBlocks.value = 0
  if (now.letGo !== letGo) {
    recent = (timestamp - letGoAt < 4000 ? recent : 0) + now.letGo - letGo
    letGo = now.letGo
    letGoAt = timestamp
  }
  const lately = timestamp - letGoAt < 4000 ? `Too much to compute: ${recent} ${recent === 1 ? 'note' : 'notes'} let go. ` : ''
  const plain = now.lowered > 0 && now.voices > 0 ? `Too much to compute: played at ${now.lowered}x. ` : ''
  overload.value = lately || plain
  limited.value = timestamp - limitedAt < 1500
  if (now.voices > 0 || drawn) draw(now.voices > 0)
  if (now.voices > 0 || peak > 1e-5) soundedAt = timestamp
  playing.audible = timestamp - soundedAt < AFTER_MS
  if (playing.audible === frames.isActive.value) return
  if (playing.audible) {
    looks.pause()
    frames.resume()
  } else {
    frames.pause()
    looks.resume()
  }
}
</script>

<template>
  <div class="meter" role="meter" aria-label="Output level" :aria-valuenow="Math.round(meter * 100)" aria-valuemin="0" aria-valuemax="100" :aria-valuetext="peakWords">
    <svg class="scope" width="64" height="24" role="img" aria-label="Live waveform"><path d="M0 12H64" class="zero" /><path :d="line" class="wave" data-testid="waveform" /></svg>
    <div class="bars">
      <i v-for="(level, at) in [left, right]" :key="at" :style="{ backgroundSize: `${(level * 100).toFixed(1)}% 100%` }" />
      <b :style="{ left: `${((document.rules?.meter_full_scale ?? 0) * 100).toFixed(1)}%` }" />
    </div>
    <div class="words" :title="`${overload}Audio load ${load} %${lateBlocks > 0 ? `; ${lateBlocks} dropouts: blocks that came too late` : ''}${keyToSoundMs > 0 ? `. The last key was heard ${keyToSoundMs.toFixed(2)} ms after it reached the sound engine` : ''}`">
      <span data-testid="peak">{{ peakWords }}</span>
      <span class="muted line"><span data-testid="voices">{{ limited ? 'limited' : `${voices} ${voices === 1 ? 'voice' : 'voices'}` }}</span><span v-if="voices > 0" data-testid="load">{{ load }} %</span><b v-if="lateBlocks > 0" class="overload" data-testid="late">{{ lateBlocks }} {{ lateBlocks === 1 ? 'dropout' : 'dropouts' }}</b></span>
      <span class="overload" role="status" data-testid="overload">{{ overload ? 'overload' : '' }}</span>
    </div>
  </div>
</template>

<style scoped>
.meter { display: flex; align-items: center; gap: 8px; }
@media (max-width: 1100px) { .scope { display: none; } .bars { width: 60px !important; } .words { width: 76px !important; } }
.scope { background: var(--field); border-radius: var(--r); }
.zero { stroke: var(--hair-2); }
.wave { fill: none; stroke: var(--ink); stroke-width: 1.2; }
.bars { position: relative; width: 96px; display: grid; gap: 2px; background: var(--bar-track); }
/* a background, as what moves makes the browser arrange all of the page anew */
.bars i { height: 5px; background: linear-gradient(var(--ok), var(--ok)) no-repeat; background-size: 0; border-bottom: 0; }
.bars b { position: absolute; top: -3px; bottom: -3px; width: 1.5px; background: var(--warn); }
.words { display: grid; font-size: var(--fs-11); width: 112px; line-height: 13px; }
.line { display: flex; gap: 6px; white-space: nowrap; }
.overload:empty { display: none; }
.overload { color: var(--warn); font-weight: 600; }
.words span:first-child { font-weight: 600; font-size: var(--fs-12); }
</style>
