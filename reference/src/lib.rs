//! Nothing but its bench: see `benches/speed.rs`.
