//! Patches and measurements shared by the tests.

use zolvik_edit::{Edit, apply};
use zolvik_engine::{Engine, program::prepare};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Bus, Quality, Route, RouteId, Send, Unit, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::movement::{Link, SourceName, Timing};

pub const RATE_HZ: f64 = 48_000.0;

/// Units with these ratios, full level from the first moment, no velocity, none routed, computed at the plain rate.
pub fn plain_units(ratios: &[f64]) -> Patch {
    let mut patch = Patch {
        units: vec![],
        routes: vec![],
        ..Patch::empty()
    };
    // what is measured is measured at the plain rate, unless a test says otherwise
    patch.voice.quality = Quality::X1;
    for (i, ratio) in ratios.iter().enumerate() {
        let mut unit = Unit::operator(UnitId(i as u16 + 1));
        let operator = unit.oscillator_mut().unwrap();
        operator.ratio = *ratio;
        unit.velocity = 0.0;
        unit.envelope.points[0].time_s = 0.0;
        unit.envelope.points[1].time_s = 0.0;
        unit.envelope.points[1].level = 1.0;
        patch.units.push(unit);
    }
    patch
}

pub fn connect(patch: &mut Patch, from: u16, send: Send) {
    let id = RouteId(patch.routes.len() as u16 + 1);
    patch.routes.push(Route {
        id,
        from: UnitId(from),
        on: true,
        send,
    });
}

/// Straight to the left channel at full level, so that samples are the unit's own.
pub const TO_LEFT: Send = Send::Output {
    level_db: 0.0,
    pan: -1.0,
    bus: Bus::Main,
};

pub fn index(to: u16, index_rad: f64) -> Send {
    Send::Phase {
        to: UnitId(to),
        index_rad,
    }
}

pub fn engine(patch: &Patch) -> Engine {
    engine_at(patch, RATE_HZ)
}

pub fn engine_at(patch: &Patch, rate_hz: f64) -> Engine {
    let mut engine = Engine::new(rate_hz);
    engine.take(&prepare(patch, &Listening::default()));
    engine
}

/// The next frames of both channels.
pub fn take(engine: &mut Engine, frames: usize) -> (Vec<f32>, Vec<f32>) {
    let (mut left, mut right) = (vec![0.0; frames], vec![0.0; frames]);
    engine.process(&mut left, &mut right);
    (left, right)
}

/// Cosine and sine of an angle that grows by so many turns a sample: turned on from one to the next, and reckoned anew every 64 samples, so that
/// nothing adds up.
pub fn turning(turns_each: f64, count: usize) -> impl Iterator<Item = (f64, f64)> {
    const ANEW: usize = 64;
    let (step_sin, step_cos) = (std::f64::consts::TAU * turns_each).sin_cos();
    let (mut sin, mut cos) = (0.0, 1.0);
    (0..count).map(move |i| {
        if i % ANEW == 0 {
            (sin, cos) = (std::f64::consts::TAU * (turns_each * i as f64).fract()).sin_cos();
        } else {
            (sin, cos) = (
                sin * step_cos + cos * step_sin,
                cos * step_cos - sin * step_sin,
            );
        }
        (cos, sin)
    })
}

/// A Blackman-Harris window over so many samples (Harris, "On the Use of Windows for Harmonic Analysis", 1978), from the cosine of its place.
fn blackman_harris(cos: f64) -> f64 {
    let (double, triple) = (2.0 * cos * cos - 1.0, cos * (4.0 * cos * cos - 3.0));
    0.35875 - 0.48829 * cos + 0.14128 * double - 0.01168 * triple
}

/// Amplitude and phase (turns) of one frequency, by projection under a Blackman-Harris window (Harris,
/// "On the use of windows", 1978), whose side lobes lie below -92 dB.
pub fn partial(samples: &[f32], hz: f64) -> (f64, f64) {
    partial_at(samples, hz, RATE_HZ)
}

/// [`partial`] at another rate.
pub fn partial_at(samples: &[f32], hz: f64, rate_hz: f64) -> (f64, f64) {
    let n = samples.len();
    let (mut re, mut im, mut total) = (0.0, 0.0, 0.0);
    let places = turning(1.0 / n as f64, n).zip(turning(hz / rate_hz, n));
    for (sample, ((place, _), (cos, sin))) in samples.iter().zip(places) {
        let window = blackman_harris(place);
        re += window * f64::from(*sample) * cos;
        im += window * f64::from(*sample) * sin;
        total += window;
    }
    (
        2.0 * re.hypot(im) / total,
        re.atan2(im) / (2.0 * std::f64::consts::PI),
    )
}

/// Largest change from one sample to the next, bent: a click shows as a spike of the second difference.
pub fn roughness(samples: &[f32]) -> f32 {
    samples
        .windows(3)
        .map(|w| (w[0] - 2.0 * w[1] + w[2]).abs())
        .fold(0.0, f32::max)
}

/// What a patch sounds like at a rate and a quality, one second of the left channel of a note after a tenth of one.
pub fn second_of(patch: &Patch, quality: Quality, rate_hz: f64, key: u8) -> Vec<f32> {
    let mut patch = patch.clone();
    patch.voice.quality = quality;
    let mut engine = engine_at(&patch, rate_hz);
    engine.note_on(key, 127);
    take(&mut engine, (rate_hz / 10.0) as usize);
    take(&mut engine, rate_hz as usize).0
}

/// How far a level is from another, in decibels.
pub fn off_db(level: f64, from: f64) -> f64 {
    20.0 * (level / from).log10()
}

/// The patch with a source of a kind that moves a value.
pub fn moved(patch: &Patch, kind: SourceName, to: Address) -> Patch {
    let edit = Edit::AddSource { kind, to: vec![to] };
    apply(patch, &edit).unwrap().0
}

/// The same patch, its only link changed.
pub fn with_link(mut patch: Patch, change: impl FnOnce(&mut Link)) -> Patch {
    change(patch.movement.links.last_mut().unwrap());
    patch
}

pub fn timing(patch: &mut Patch) -> &mut Timing {
    &mut patch.movement.sources.last_mut().unwrap().timing
}

pub fn place(engine: &Engine) -> f32 {
    let mut places = [[0.0; 2]];
    engine.places(&mut places);
    places[0][0]
}

/// [`roughness`] over the loudest sample.
pub fn roughness_of_peak(samples: &[f32]) -> f32 {
    let peak = samples.iter().fold(1e-9f32, |a, b| a.max(b.abs()));
    roughness(samples) / peak
}
