//! What is seen of a sound, and what words mean.

pub(crate) mod comparing;
mod explaining;
mod eyes;
mod meaning;
mod pictures;
mod same_bits;
