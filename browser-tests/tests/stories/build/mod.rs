//! Building a patch: strips, routes, waves, filters, samples, tuning.

mod algorithms;
pub(crate) mod bell;
mod envelopes;
mod filters;
mod groups;
mod routing;
mod samples;
mod tuning;
mod waves;
pub(crate) mod wide;
