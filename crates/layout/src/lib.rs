//! How a patch is drawn, without a screen: the rails of its routing, the handles of its envelopes.

pub mod handles;
pub mod rails;
