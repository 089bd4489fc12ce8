//! Filters of one pole.

use super::flush_denormal;

/// One pole that lets through what lies below.
#[derive(Debug, Clone, Copy, Default)]
pub struct LowPass {
    /// What the share was reckoned for.
    turns: f64,
    share: f32,
    state: f32,
}

impl LowPass {
    /// Sets its corner.
    pub fn set(&mut self, hz: f64, rate_hz: f64) {
        let turns = (hz / rate_hz).min(0.49);
        if self.turns != turns {
            self.turns = turns;
            self.share = (1.0 - libm::exp(-core::f64::consts::TAU * turns)) as f32;
        }
    }

    /// One sample.
    #[inline(always)]
    pub fn next(&mut self, x: f32) -> f32 {
        self.state += (x - self.state) * self.share;
        self.state
    }

    /// Lets go of what is no longer heard, once a block.
    pub fn settle(&mut self) {
        self.state = flush_denormal(self.state);
    }

    /// Forgets what it has heard.
    pub fn clear(&mut self) {
        self.state = 0.0;
    }
}

/// One pole that takes away what stands still.
#[derive(Debug, Clone, Copy, Default)]
pub struct HighPass(LowPass);

impl HighPass {
    /// Sets its corner.
    pub fn set(&mut self, hz: f64, rate_hz: f64) {
        self.0.set(hz, rate_hz);
    }

    /// One sample.
    #[inline(always)]
    pub fn next(&mut self, x: f32) -> f32 {
        x - self.0.next(x)
    }

    /// Lets go of what is no longer heard, once a block.
    pub fn settle(&mut self) {
        self.0.settle();
    }

    /// Forgets what it has heard.
    pub fn clear(&mut self) {
        self.0.clear();
    }
}
