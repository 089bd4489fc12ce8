//! What wheels and pedals send, as numbers of the MIDI 1.0 specification (MIDI Manufacturers Association, 1996).

/// Controllers that already mean something to every patch, and so cannot be learnt.
const TAKEN: &[u8] = &[0, 1, 6, 11, 32, 38, 64, 98, 99, 100, 101];
/// From here on they switch modes of the whole instrument.
const MODES_FROM: u8 = 120;

/// Whether a macro may be moved by a controller.
pub fn may_be_learnt(controller: u8) -> bool {
    controller < MODES_FROM && !TAKEN.contains(&controller)
}

/// The controller of the sustain pedal.
pub const SUSTAIN: u8 = 64;

/// From this value on, of 127, a sustain pedal holds.
pub const PEDAL_HOLDS: u8 = 64;
