/** What is heard when nothing is left out. */
import type { Listening } from './generated/Listening'

/** Nothing muted. */
export const EVERYTHING: Listening = { muted: [], soloed: [], bypassed: [], muted_routes: [], soloed_routes: [], muted_sources: [], soloed_sources: [], muted_links: [], soloed_links: [], muted_chains: [], soloed_chains: [], up_to: null, band_alone: null }
