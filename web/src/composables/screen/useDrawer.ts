/** Whether the inspector is open where it is a drawer, on a narrow window. */
import { ref, type Ref } from 'vue'

/** What is a narrow window. */
export const NARROW = '(max-width: 899px)'

const open = ref(false)

export const useDrawer = (): Ref<boolean> => open
