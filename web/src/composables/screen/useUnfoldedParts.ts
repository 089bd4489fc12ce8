/** Which parts of a sheet the user unfolded, for all strips alike. */
import { shallowReactive } from 'vue'

import type { SectionId } from '../../engine/generated/SectionId'

const unfolded = shallowReactive(new Set<SectionId>())

export interface UseUnfoldedPartsReturn {
  unfolded: ReadonlySet<SectionId>
  toggle: (part: SectionId, open: boolean) => void
}

export function useUnfoldedParts(): UseUnfoldedPartsReturn {
  return { unfolded, toggle: (part, open) => void (open ? unfolded.add(part) : unfolded.delete(part)) }
}
