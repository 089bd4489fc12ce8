//! Recordings as they were brought or synthesized, and where they are found.

use std::sync::Arc;

/// A recording: one channel.
#[derive(Debug, Clone, PartialEq)]
pub struct Clip {
    /// Samples, about -1 to 1.
    pub samples: Vec<f32>,
    /// Sample rate in hertz.
    pub rate_hz: f64,
}

/// Where recordings that were brought in are found.
pub trait Clips {
    /// The clip with a content; none if it is missing.
    fn clip(&self, content: &str) -> Option<Arc<Clip>>;
}

/// Nowhere: only the recordings that come with the application are there.
pub struct NoClips;

impl Clips for NoClips {
    fn clip(&self, _: &str) -> Option<Arc<Clip>> {
        None
    }
}
