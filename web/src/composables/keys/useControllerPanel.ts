/** The panel of controllers in the foot, asked for from elsewhere. */
import { ref, type Ref } from 'vue'

const asked = ref(0)

/** Counts how often it was asked for. */
export const useControllerPanel = (): Ref<number> => asked
