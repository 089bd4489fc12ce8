//! Keeps live playing from getting dangerously loud. Renders do not pass it, so that levels are seen as they are.

/// A limiter that acts at once and lets go over a fifth of a second.
#[derive(Debug, Clone)]
pub struct Guard {
    gain: f32,
    share: f32,
}

impl Guard {
    /// Highest sample that leaves.
    pub const CEILING: f32 = 0.98;

    /// For a sample rate in hertz.
    pub fn new(rate_hz: f64) -> Self {
        Guard {
            gain: 1.0,
            share: (1.0 - libm::exp(-1.0 / (0.2 * rate_hz))) as f32,
        }
    }

    /// Limits both channels in place. Gives the lowest gain used, 1 if nothing was limited.
    ///
    /// # Real time
    /// No allocation, no lock, no panic. What is not finite leaves as silence.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) -> f32 {
        let mut lowest = 1.0f32;
        for (l, r) in left.iter_mut().zip(right.iter_mut()) {
            if !(l.is_finite() && r.is_finite()) {
                (*l, *r) = (0.0, 0.0);
            }
            let peak = l.abs().max(r.abs());
            self.gain += (1.0 - self.gain) * self.share;
            if peak * self.gain > Self::CEILING {
                self.gain = Self::CEILING / peak;
            }
            lowest = lowest.min(self.gain);
            *l = (*l * self.gain).clamp(-Self::CEILING, Self::CEILING);
            *r = (*r * self.gain).clamp(-Self::CEILING, Self::CEILING);
        }
        if lowest > 0.999 { 1.0 } else { lowest }
    }
}
