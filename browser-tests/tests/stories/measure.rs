//! Measurements on rendered notes, for the stories.

use zolvik_lab::note::Note;
use zolvik_lab::render::render;
use zolvik_lab::rendered::Rendered;
use zolvik_patch::Patch;

pub const RATE_HZ: f64 = 48_000.0;

/// A note of a patch, rendered by the core.
pub fn note(patch: &Patch, key: u8, hold_s: f64, length_s: f64) -> Rendered {
    let note = Note {
        key,
        velocity: 110,
        hold_s,
        length_s,
        rate_hz: RATE_HZ,
        controls: Default::default(),
    };
    render(patch, &note)
}

/// The phrase of a patch, rendered by the core.
pub fn phrase_of(patch: &Patch, rate_hz: f64) -> Rendered {
    let how = zolvik_lab::render::Phrased::to_its_end(patch, rate_hz);
    let prepared = zolvik_lab::render::prepared(patch);
    zolvik_lab::render::render_phrase(&prepared, patch, &how)
}

/// The strongest frequency of a stretch, by steps of half a hertz.
pub fn strongest_hz(samples: &[f32], from_s: f64, to_s: f64, (low, high): (f64, f64)) -> f64 {
    let part = &samples[(from_s * RATE_HZ) as usize..(to_s * RATE_HZ) as usize];
    let steps = ((high - low) * 2.0) as usize;
    let all = (0..steps).map(|n| low + n as f64 * 0.5);
    all.max_by(|a, b| amplitude(part, RATE_HZ, *a).total_cmp(&amplitude(part, RATE_HZ, *b)))
        .unwrap_or(0.0)
}

/// Amplitude of a frequency in samples, under a Hann window.
pub fn amplitude(samples: &[f32], rate_hz: f64, hz: f64) -> f64 {
    let count = samples.len() as f64;
    let (mut re, mut im) = (0.0, 0.0);
    for (i, sample) in samples.iter().enumerate() {
        let window = 1.0 - (std::f64::consts::TAU * i as f64 / count).cos();
        let angle = std::f64::consts::TAU * hz * i as f64 / rate_hz;
        re += window * f64::from(*sample) * angle.cos();
        im += window * f64::from(*sample) * angle.sin();
    }
    2.0 * re.hypot(im) / count
}

/// Root mean square.
pub fn rms(samples: &[f32]) -> f64 {
    let sum: f64 = samples.iter().map(|s| f64::from(s * s)).sum();
    (sum / samples.len().max(1) as f64).sqrt()
}

/// Share of the power that changes from sample to sample: near 0 for low tones, 4 for the highest.
pub fn brightness(samples: &[f32]) -> f64 {
    let steps: Vec<f32> = samples.windows(2).map(|w| w[1] - w[0]).collect();
    (rms(&steps) / rms(samples).max(1e-12)).powi(2)
}

/// Largest second difference: a click shows as a spike.
pub fn roughness(samples: &[f32]) -> f32 {
    let bends = samples.windows(3).map(|w| (w[0] - 2.0 * w[1] + w[2]).abs());
    bends.fold(0.0, f32::max)
}

/// Lowest and highest pitch of a sine in a stretch, in cents from a frequency: by the turning of its phase from one hundredth of a second
/// to the next.
pub fn pitch_span_cents(samples: &[f32], (from_s, to_s): (f64, f64), hz: f64) -> (f64, f64) {
    let hop = (RATE_HZ / 100.0) as usize;
    let range = (from_s * RATE_HZ) as usize..(to_s * RATE_HZ) as usize;
    let phase = |chunk: &[f32], first: usize| {
        let (mut re, mut im) = (0.0, 0.0);
        for (i, sample) in chunk.iter().enumerate() {
            let window = 1.0 - (std::f64::consts::TAU * i as f64 / chunk.len() as f64).cos();
            let angle = std::f64::consts::TAU * (hz * (first + i) as f64 / RATE_HZ).fract();
            re += window * f64::from(*sample) * angle.cos();
            im -= window * f64::from(*sample) * angle.sin();
        }
        im.atan2(re) / std::f64::consts::TAU
    };
    let at: Vec<f64> = range
        .step_by(hop)
        .map(|first| phase(&samples[first..first + 2 * hop], first))
        .collect();
    let cents = at.windows(2).map(|two| {
        let turned = two[1] - two[0];
        1200.0 * (1.0 + (turned - turned.round()) * 100.0 / hz).log2()
    });
    cents.fold((f64::MAX, f64::MIN), |(low, high), c| {
        (low.min(c), high.max(c))
    })
}
