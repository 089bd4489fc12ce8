//! Effects and their chains.

mod effects;
mod finishing;
