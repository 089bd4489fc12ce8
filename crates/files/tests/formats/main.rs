//! Files in and out.

mod damaged;
mod exchange;
mod midi;
