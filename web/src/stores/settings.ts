/** What this person prefers on this machine; kept in the browser. */
import { usePreferredDark, useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, watchEffect } from 'vue'

import { useDocument } from './document'
import { HIGHEST_HZ, LOWEST_HZ } from '../draw/axis'
import type { Span } from '../engine/generated/Span'
import type { Touch } from '../engine/generated/Touch'
import { useLow } from '../composables/screen/useLow'

export const useSettings = defineStore('settings', () => {
  const document = useDocument()
  const preferred = usePreferredDark()
  const theme = useStorage<'light' | 'dark' | 'system'>('zolvik-theme', 'system')
  const axis = useStorage<'wide' | 'even'>('zolvik-axis', 'wide')
  /** What the picture shows, and what Play plays. */
  const picture = useStorage<'note' | 'phrase'>('zolvik-picture', 'note')
  /** How keyboards are touched: velocities are lifted, left or lowered. */
  const touch = useStorage<Touch>('zolvik-touch', 'even')
  /** Grid of the phrase, in beats; 0 for none. */
  const gridBeats = useStorage('zolvik-grid-beats', 0.25)
  /** Height of the result chosen by hand, in pixels; 0 lets it take what the strips leave free. */
  const resultHeight = useStorage('zolvik-result-px', 0)
  /** Whether the keyboard at the foot is open; on low windows that is chosen apart. */
  const low = useLow()
  const keysChosen = useStorage('zolvik-keys-open', true)
  const keysChosenLow = useStorage('zolvik-keys-open-low', false)
  const keysOpen = computed({
    get: () => (low.value ? keysChosenLow.value : keysChosen.value),
    set: (open) => (low.value ? (keysChosenLow.value = open) : (keysChosen.value = open)),
  })
  /** Width of the inspector, in pixels; 0 as it comes. */
  const inspectorPx = useStorage('zolvik-inspector-px', 0)
  /** The frequencies the result shows, and what stands beside it: the spectrum at the cursor, the cycles there, or where what stands. */
  const span = useStorage<Span>('zolvik-span', { from_hz: LOWEST_HZ, to_hz: HIGHEST_HZ })
  const beside = useStorage<'spectrum' | 'cycles' | 'stereo'>('zolvik-beside', 'spectrum')
  const isWholeSpan = computed(() => span.value.from_hz <= LOWEST_HZ && span.value.to_hz >= HIGHEST_HZ)
  const dark = computed(() => (theme.value === 'system' ? preferred.value : theme.value === 'dark'))
  /** Whether the picture is that of the phrase, where there is one. */
  const showsPhrase = computed(() => picture.value === 'phrase' && document.view?.phrase !== null && document.view !== undefined)
  /** What the picture is of, and so its levels. */
  const pictured = computed(() => (showsPhrase.value ? 'the phrase' : 'the note'))
  /** Shape of the time axis: place = (time / window) ^ exponent. */
  const exponent = computed(() => {
    const [wide, even] = document.rules?.time_exponents ?? [1, 1]
    // bars are as wide as each other
    return axis.value === 'wide' && !showsPhrase.value ? wide : even
  })
  watchEffect(() => {
    window.document.documentElement.dataset.theme = dark.value ? 'dark' : 'light'
  })
  const switchTheme = () => {
    theme.value = dark.value ? 'light' : 'dark'
  }
  return { theme, axis, picture, touch, gridBeats, showsPhrase, pictured, resultHeight, keysOpen, inspectorPx, span, isWholeSpan, beside, dark, exponent, switchTheme }
})
