//! What players do.

pub(crate) mod channels;
pub(crate) mod controls;
pub(crate) mod keys;
mod midi;
