/** Whether the inspector is open where it is a drawer, on a narrow window. */
import { ref, type Ref } from 'vue'

const open = ref(false)

export const useDrawer = (): Ref<boolean> => open
