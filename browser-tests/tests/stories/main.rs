//! What a sound designer does, on the real screen, with the real engine.

mod build;
mod figures;
mod finish;
mod hand;
mod hands;
mod held;
mod keep;
mod measure;
mod moves;
mod play;
mod see;
