//! Up to eight bands.

use zolvik_patch::choice::Options;
use zolvik_patch::finish::{BandType, CutSlope, EqBand, MAX_EQ_BANDS};

use crate::kind::Effect;
use crate::process::{BAND_ALONE, Process, Setting, Stereo};
use crate::tools::biquad::{Biquad, Filter, butterworth};
use crate::tools::ringing::stages_s;

/// Most stages of a band: those of a cut with eight poles.
const STAGES: usize = 4;

/// Gain of a band by frequency.
#[derive(Debug, Clone, Copy)]
pub struct Curve {
    stages: [Biquad; STAGES],
}

impl Curve {
    /// Its gain at a frequency over the rate, as a factor.
    pub fn gain(&self, turns: f64) -> f64 {
        self.stages.iter().map(|s| s.gain(turns)).product()
    }
}

/// What a band does: its type and slope, its frequency over the rate, its gain and quality.
pub fn band_curve(what: BandType, slope: CutSlope, turns: f64, gain_db: f64, q: f64) -> Curve {
    let mut stages = [Biquad::PLAIN; STAGES];
    match what {
        BandType::LowCut | BandType::HighCut => {
            let poles = match slope {
                CutSlope::Db6 => 1,
                CutSlope::Db12 => 2,
                CutSlope::Db24 => 4,
                CutSlope::Db36 => 6,
                CutSlope::Db48 => 8,
            };
            let high = what == BandType::LowCut;
            if poles == 1 {
                stages[0] = if high {
                    Biquad::high_pass_6(turns)
                } else {
                    Biquad::low_pass_6(turns)
                };
            }
            for (stage, to) in stages.iter_mut().enumerate().take(poles / 2) {
                // the sharpest stage takes up what the edge is to ring
                let own = butterworth(poles, stage);
                let last = stage == 0;
                let q = if last {
                    own * q * core::f64::consts::SQRT_2
                } else {
                    own
                };
                *to = if high {
                    Biquad::high_pass(turns, q)
                } else {
                    Biquad::low_pass(turns, q)
                };
            }
        }
        BandType::LowShelf => stages[0] = Biquad::low_shelf(turns, q, gain_db),
        BandType::HighShelf => stages[0] = Biquad::high_shelf(turns, q, gain_db),
        BandType::Peak => stages[0] = Biquad::bell(turns, q, gain_db),
        BandType::Notch => stages[0] = Biquad::notch(turns, q),
        BandType::Tilt => stages[0] = Biquad::tilt(turns, gain_db),
    }
    Curve { stages }
}

/// The stages of a band as it is set.
fn band_stages(set: &Setting<'_>, at: usize) -> [Biquad; STAGES] {
    let what = set.bands[at];
    let [hz, gain_db, q] =
        [EqBand::HZ, EqBand::GAIN_DB, EqBand::Q].map(|id| f64::from(set.band(at, id).next));
    let turns = hz / set.rate_hz;
    match what.on {
        true if what.what == BAND_ALONE => {
            let near = Biquad::band_pass(turns, q.max(0.7));
            [near, near, Biquad::PLAIN, Biquad::PLAIN]
        }
        true => {
            let slope = CutSlope::at(what.slope.into());
            band_curve(BandType::at(what.what.into()), slope, turns, gain_db, q).stages
        }
        false => [Biquad::PLAIN; STAGES],
    }
}

pub(crate) struct Eq {
    bands: [[Filter; STAGES]; MAX_EQ_BANDS],
    /// What each band was designed for last.
    known: [Option<Known>; MAX_EQ_BANDS],
}

#[derive(Debug, Clone, Copy, PartialEq)]
struct Known {
    what: crate::process::Band,
    hz: f32,
    gain_db: f32,
    q: f32,
    curve: [Biquad; STAGES],
}

impl Effect for Eq {
    const SHORTEST_TAIL_S: f64 = 0.3;

    fn new(_rate_hz: f64) -> Self {
        Eq {
            bands: [[Filter::QUIET; STAGES]; MAX_EQ_BANDS],
            known: [None; MAX_EQ_BANDS],
        }
    }

    fn load(set: &Setting<'_>) -> f64 {
        let on = set.bands[..set.band_count]
            .iter()
            .filter(|band| band.on)
            .count();
        0.003 + 0.000_8 * on as f64
    }

    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64 {
        let bands = (0..set.band_count.min(MAX_EQ_BANDS)).flat_map(|at| band_stages(set, at));
        stages_s(bands, set.rate_hz, down_db)
    }
}

impl Process for Eq {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        for at in 0..set.band_count.min(MAX_EQ_BANDS) {
            let what = set.bands[at];
            let [hz, gain_db, q] =
                [EqBand::HZ, EqBand::GAIN_DB, EqBand::Q].map(|id| set.band(at, id).next);
            let same = |k: &Known| (k.what, k.hz, k.gain_db, k.q) == (what, hz, gain_db, q);
            let curve = match self.known[at].filter(same) {
                Some(known) => known.curve,
                None => {
                    let curve = band_stages(set, at);
                    self.known[at] = Some(Known {
                        what,
                        hz,
                        gain_db,
                        q,
                        curve,
                    });
                    curve
                }
            };
            for (filter, to) in self.bands[at].iter_mut().zip(curve) {
                filter.set_target(to);
                if !filter.is_plain() {
                    filter.both(block);
                }
            }
        }
    }

    fn clear(&mut self) {
        *self = Eq::new(0.0);
    }
}
