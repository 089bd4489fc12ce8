//! The sounds of the beat, synthesized as a player is made: a falling sine, noise through simple filters, a few detuned squares.

use zolvik_patch::playing::beat::Drum;

/// Strokes that sound at once.
const MOST: usize = 16;

/// One stroke that sounds.
#[derive(Debug, Clone, Copy, Default)]
struct Sounding {
    drum: usize,
    at: usize,
    gain: f32,
    on: bool,
}

/// The sounds of the beat, and those that sound now.
#[derive(Debug, Clone)]
pub struct Drums {
    sounds: [Vec<f32>; Drum::ALL.len()],
    sounding: [Sounding; MOST],
}

impl Drums {
    /// For a sample rate in hertz. Allocates; not for the audio path.
    pub fn new(rate_hz: f64) -> Self {
        Drums {
            sounds: Drum::ALL.map(|drum| made(drum, rate_hz)),
            sounding: [Sounding::default(); MOST],
        }
    }

    /// Nothing sounds.
    pub(crate) fn begin_anew(&mut self) {
        self.sounding = [Sounding::default(); MOST];
    }

    /// One sound, for measuring.
    pub fn sound(&self, drum: Drum) -> &[f32] {
        &self.sounds[drum as usize]
    }

    /// Strikes one, so many frames from now.
    pub(crate) fn strike(&mut self, drum: usize, frames: usize, gain: f32) {
        // an open hat ends as a closed one is struck
        let closes = drum == Drum::ClosedHat as usize;
        for other in &mut self.sounding {
            if closes && other.on && other.drum == Drum::OpenHat as usize {
                other.gain *= 0.25;
            }
        }
        let oldest = |s: &&mut Sounding| (s.on, usize::MAX - s.at.min(usize::MAX / 2));
        if let Some(place) = self.sounding.iter_mut().min_by_key(oldest) {
            *place = Sounding {
                drum: drum % Drum::ALL.len(),
                // it begins where this wraps round to 0
                at: 0usize.wrapping_sub(frames),
                gain,
                on: true,
            };
        }
    }

    /// Silence from now on.
    pub(crate) fn silence(&mut self) {
        self.sounding = [Sounding::default(); MOST];
    }

    /// The next frames.
    pub(crate) fn process(&mut self, into: &mut [f32]) {
        into.fill(0.0);
        for one in self.sounding.iter_mut().filter(|one| one.on) {
            let sound = &self.sounds[one.drum];
            for frame in into.iter_mut() {
                // before its begin the place lies far beyond the end
                if let Some(sample) = sound.get(one.at) {
                    *frame += sample * one.gain;
                }
                one.at = one.at.wrapping_add(1);
            }
            one.on = one.at < sound.len() || one.at > usize::MAX / 2;
        }
    }
}

/// Noise from a counter (SplitMix64; Steele, Lea, Flood, 2014), -1 to 1.
fn noise(n: usize, seed: u64) -> f64 {
    let mut z = (n as u64)
        .wrapping_add(seed << 32)
        .wrapping_mul(0x9E37_79B9_7F4A_7C15);
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    (z >> 11) as f64 / (1u64 << 52) as f64 - 1.0
}

/// Two first-order high-passes one after the other.
struct High {
    share: f64,
    low: [f64; 2],
}

impl High {
    fn new(cutoff_hz: f64, rate_hz: f64) -> Self {
        High {
            share: 1.0 - libm::exp(-core::f64::consts::TAU * cutoff_hz / rate_hz),
            low: [0.0; 2],
        }
    }

    fn run(&mut self, x: f64) -> f64 {
        let mut x = x;
        for low in &mut self.low {
            *low += (x - *low) * self.share;
            x -= *low;
        }
        x
    }
}

fn made(drum: Drum, rate_hz: f64) -> Vec<f32> {
    let length_s = match drum {
        Drum::Kick => 0.42,
        Drum::Snare => 0.28,
        Drum::Clap => 0.3,
        Drum::ClosedHat => 0.07,
        Drum::OpenHat => 0.34,
        Drum::Shaker => 0.12,
        Drum::Rim => 0.06,
    };
    let frames = (length_s * rate_hz) as usize;
    let fall = |time_s: f64, half_s: f64| libm::exp2(-time_s / half_s);
    let cutoff_hz = match drum {
        Drum::Snare => 900.0,
        Drum::Clap => 1100.0,
        Drum::Shaker => 4200.0,
        _ => 6800.0,
    };
    let mut high = High::new(cutoff_hz, rate_hz);
    let mut turns = 0.0;
    let metal = [3170.0, 4210.0, 5333.0, 6571.0, 7919.0, 9137.0];
    (0..frames)
        .map(|n| {
            let t = n as f64 / rate_hz;
            // the same noise at every rate, held between its moments
            let hiss = noise((t * 48_000.0) as usize, drum as u64 + 1);
            let sample = match drum {
                Drum::Kick => {
                    turns += (46.0 + 190.0 * fall(t, 0.018) + 900.0 * fall(t, 0.0022)) / rate_hz;
                    libm::sin(core::f64::consts::TAU * turns) * fall(t, 0.085)
                }
                Drum::Snare => {
                    turns += (178.0 + 60.0 * fall(t, 0.01)) / rate_hz;
                    0.45 * libm::sin(core::f64::consts::TAU * turns) * fall(t, 0.03)
                        + 0.5 * high.run(hiss) * fall(t, 0.045)
                }
                Drum::Clap => {
                    let hands = [0.0, 0.011, 0.023];
                    let slaps = hands.iter().filter(|at| t >= **at);
                    let level: f64 = slaps.map(|at| fall(t - at, 0.004)).sum::<f64>();
                    let room = if t > 0.023 {
                        fall(t - 0.023, 0.05)
                    } else {
                        0.0
                    };
                    0.6 * high.run(hiss) * (0.6 * level + 0.6 * room)
                }
                Drum::ClosedHat | Drum::OpenHat => {
                    let half_s = if drum == Drum::OpenHat { 0.075 } else { 0.012 };
                    let ring: f64 = metal
                        .iter()
                        .map(|hz| libm::sin(core::f64::consts::TAU * hz * t))
                        .sum();
                    0.5 * high.run(0.16 * ring + 0.6 * hiss) * fall(t, half_s)
                }
                Drum::Shaker => {
                    let rise = (t / 0.018).min(1.0);
                    0.35 * high.run(hiss) * rise * fall(t, 0.03)
                }
                Drum::Rim => {
                    let body = libm::sin(core::f64::consts::TAU * 1690.0 * t)
                        + libm::sin(core::f64::consts::TAU * 2310.0 * t);
                    0.35 * body * fall(t, 0.006)
                }
            };
            // no click at the end
            let left = (frames - n) as f64 / (0.01 * rate_hz);
            (0.8 * sample * left.min(1.0)) as f32
        })
        .collect()
}
