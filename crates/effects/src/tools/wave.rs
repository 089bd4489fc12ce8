//! Slow waves.

/// Turns that go round.
#[derive(Debug, Clone, Copy, Default)]
pub struct Turns(pub f32);

impl Turns {
    /// One frame on.
    #[inline(always)]
    pub fn next(&mut self, hz: f32, rate_hz: f32) -> f32 {
        self.0 += hz / rate_hz;
        self.0 -= self.0.floor();
        self.0
    }
}

/// A sine of turns, -1 to 1, by a polynomial (Taylor, 1715) that is the same everywhere: within 4e-6.
#[inline(always)]
pub fn sine(turns: f32) -> f32 {
    let t = turns - (turns + 0.5).floor();
    // fold to a quarter turn each way
    let t = if t > 0.25 {
        0.5 - t
    } else if t < -0.25 {
        -0.5 - t
    } else {
        t
    };
    let x = t * core::f32::consts::TAU;
    let x2 = x * x;
    x * (1.0
        - x2 * (1.0 / 6.0)
            * (1.0 - x2 * (1.0 / 20.0) * (1.0 - x2 * (1.0 / 42.0) * (1.0 - x2 * (1.0 / 72.0)))))
}
