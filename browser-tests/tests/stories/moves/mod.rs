//! Movement.

mod moving;
mod steps;
