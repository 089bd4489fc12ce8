/** Whether the window is so low, or so narrow, that what can be folded is folded by itself. */
import { useMediaQuery } from '@vueuse/core'
import type { Ref } from 'vue'

export const useLow = (): Ref<boolean> => useMediaQuery('(max-height: 719px), (max-width: 999px)')
