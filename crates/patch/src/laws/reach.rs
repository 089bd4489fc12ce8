//! How far up a patch reaches, and at how many times the rate it has to be computed so that nothing is heard that folds back.

use std::borrow::Cow;

use crate::kinds::UnitKind;
use crate::laws::levels::db_gain;
use crate::laws::pitch::operator_hz;
use crate::movement::amount::swept;
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::params::param::Owner;
use crate::parts::route::{RouteKind, Send};
use crate::parts::unit::Unit;
use crate::parts::voice::{Quality, VoiceSettings};
use crate::parts::wave::{Shape, Wave};
use crate::patch::Patch;

/// The rate that is reckoned with: the lowest common one.
const RATE_HZ: f64 = 44_100.0;
/// Nothing may fold to below this.
const HEARD_HZ: f64 = 18_000.0;
/// Most times the rate that is chosen by itself.
const MOST: usize = 4;
/// How often frequencies are carried along the routes: as deep as stacks of modulators count, and enough for loops to settle.
const ROUNDS: usize = 8;
/// What stands for the many harmonics of a wave other than the sine.
const HARMONICS: f64 = 4.0;
/// Where a loop has run away.
const AWAY_HZ: f64 = 1e6;

/// How many sidebands on either side stand above -60 dB at an index in radians: the first beyond has a Bessel function below 0.001, which
/// begins at `index + 3.3 index^(1/3)`. (Carson, "Notes on the Theory of Modulation", 1922, stops at 1 % of the power.)
pub fn sidebands(index_rad: f64) -> f64 {
    match index_rad < 2e-3 {
        true => 0.0,
        false => (index_rad + 3.3 * libm::cbrt(index_rad) - 0.3).ceil(),
    }
}

/// The highest frequency of a patch above -60 dB at a key of so many hertz, by what its routes can do at full envelopes.
fn highest_hz(patch: &Patch, key_hz: f64) -> f64 {
    let place = |id| patch.units.iter().position(|u| u.id == id);
    let own: Vec<f64> = patch.units.iter().map(|u| own_hz(u, key_hz)).collect();
    let octaves = libm::log2(key_hz / crate::laws::pitch::key_hz(60.0));
    let level = |unit: &Unit| {
        let key = db_gain(unit.key_level_db * octaves).min(2.0);
        let points = unit.envelope.points.iter().map(|p| p.level);
        key * points.fold(0.0, f64::max)
    };
    let routes: Vec<(usize, usize, &Send, f64)> = patch
        .routes
        .iter()
        .filter(|route| crate::laws::hearing::passes(patch, route))
        .filter_map(|route| {
            let (from, to) = (place(route.from)?, place(route.send.target()?)?);
            let source = &patch.units[from];
            let on = source.on && patch.units[to].on;
            on.then(|| (from, to, &route.send, level(source)))
        })
        .collect();
    // how fast a phase turns at the most, modulated
    let mut turning = own.clone();
    for _ in 0..ROUNDS {
        let before = turning.clone();
        turning.copy_from_slice(&own);
        for (from, to, send, level) in &routes {
            turning[*to] += match send.kind() {
                Some(RouteKind::Phase) => send.strength() * level * before[*from],
                Some(RouteKind::Frequency) => send.strength() * level * own[*to],
                Some(RouteKind::Audio) => (before[*from] - turning[*to]).max(0.0),
                _ => before[*from],
            };
            turning[*to] = turning[*to].min(AWAY_HZ);
        }
    }
    // what nothing moves cannot fold: waves end below half the rate
    let mut top = vec![0.0; own.len()];
    for (from, to, send, level) in &routes {
        top[*to] = own[*to].max(top[*to]);
        let by = turning[*from];
        top[*to] += match send.kind() {
            Some(RouteKind::Phase) => sidebands(send.strength() * level) * by,
            Some(RouteKind::Frequency) if by > 0.0 => {
                sidebands(send.strength() * level * own[*to] / by) * by
            }
            _ => by,
        };
    }
    top.into_iter().fold(0.0, f64::max)
}

/// A unit's own frequency; what has none that could fold counts as still.
fn own_hz(unit: &Unit, key_hz: f64) -> f64 {
    match &unit.kind {
        UnitKind::Operator(operator) => {
            let hz = operator_hz(operator, key_hz);
            match operator.wave {
                Wave::Shape(Shape::Sine) => hz,
                _ => hz * HARMONICS,
            }
        }
        _ => 0.0,
    }
}

/// A patch with every value where movement takes it at the most.
pub struct Reach<'a> {
    patch: Cow<'a, Patch>,
    /// Factor of all pitches.
    times: f64,
}

impl<'a> Reach<'a> {
    fn new(patch: &'a Patch) -> Self {
        let mut most = Cow::Borrowed(patch);
        for link in &patch.movement.links {
            let deepens = matches!(param(link.to.param).owner, Owner::Unit | Owner::Route);
            if let (true, Some((_, high))) = (deepens, swept(patch, link.to)) {
                // ranges hold, so that this is taken
                let _ = link.to.set(most.to_mut(), high);
            }
        }
        let cents = |id| {
            let to = Address::patch(id);
            let own = || to.get(patch).unwrap_or_default();
            swept(patch, to).map_or_else(own, |(_, high)| high)
        };
        let of_kind =
            cents(VoiceSettings::CARRIERS_CENTS).max(cents(VoiceSettings::MODULATORS_CENTS));
        let cents = cents(VoiceSettings::TUNE_CENTS) + of_kind;
        Reach {
            patch: most,
            times: libm::exp2(cents / 1200.0),
        }
    }

    /// At how many times the rate a note of so many hertz is computed: as the patch says, or, where it leaves that open, at as many as
    /// it takes at this key, 4 at the most.
    pub fn times_rate(&self, key_hz: f64) -> usize {
        match self.patch.voice.quality {
            Quality::Auto => {
                let highest_hz = highest_hz(&self.patch, key_hz * self.times);
                let folds = |times: &usize| highest_hz > RATE_HZ * *times as f64 - HEARD_HZ;
                [1, 2].into_iter().find(|t| !folds(t)).unwrap_or(MOST)
            }
            Quality::X1 => 1,
            Quality::X2 => 2,
            Quality::X4 => 4,
            Quality::X8 => 8,
        }
    }
}

impl Patch {
    /// How far up it reaches: for asking of many keys.
    pub fn reach(&self) -> Reach<'_> {
        Reach::new(self)
    }

    /// At how many times the rate a note of so many hertz is computed, see [`Reach::times_rate`].
    pub fn times_rate(&self, key_hz: f64) -> usize {
        self.reach().times_rate(key_hz)
    }

    /// The same for the note it is tried with.
    pub fn times_rate_auditioned(&self) -> usize {
        self.times_rate(crate::laws::pitch::auditioned_hz(self))
    }
}
