//! What is read by position: banks of cycles, recordings.

pub(crate) mod bank_cache;
