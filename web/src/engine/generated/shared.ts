// Generated from Rust (`browser/src/shared.rs`). Do not edit.
/** Places in the memory the audio thread and the page share, in words of 32 bits. */
export const SHARED = {
  peakLeft: 0,
  peakRight: 1,
  meterLeft: 2,
  meterRight: 3,
  guard: 4,
  voices: 5,
  load: 6,
  letGo: 7,
  lowered: 8,
  late: 9,
  placeBeats: 10,
  keyToSoundS: 11,
  sources: 12,
  written: 44,
  scope: 45,
  scopeFrames: 1024,
} as const
