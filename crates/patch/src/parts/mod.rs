//! What a patch is made of.

pub mod character;
pub mod envelope;
pub mod filter;
pub mod group;
pub mod look;
pub mod route;
pub mod scale;
pub mod sound;
pub mod unit;
pub mod voice;
pub mod wave;
