//! Measured levels and explained partials with the words the screen shows.

use serde::Serialize;
use zolvik_lab::bands::{BANDS, BandPower};
use zolvik_lab::level::Level;
use zolvik_lab::predict::{Explained, Explanation, Fold};
use zolvik_lab::rendered::EffectLevels;
use zolvik_lab::spectrum::Partial;
use zolvik_patch::document::{EffectId, UnitId};
use zolvik_patch::levels::db_gain;
use zolvik_patch::text::{self, decibels, fixed};

/// A partial that is heard: as measured, or by theory where it blends with its neighbours.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PartialView {
    /// Frequency in hertz.
    pub hz: f64,
    /// Level in dB of full scale.
    pub db: f64,
    /// Its frequency in words.
    pub words: String,
    /// What theory has there, as short as it goes, and the operator that causes it; empty and none where it has nothing.
    pub made_by: String,
    pub by: Option<UnitId>,
}

/// How loud a note is.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct LevelView {
    /// Highest point of the curve, in dB of full scale; -200 for silence.
    pub true_peak_db: f64,
    /// Loudest 400 ms in LUFS; -200 for silence.
    pub loudness_lufs: f64,
    /// The peak in words.
    pub true_peak: String,
    /// The loudness in words.
    pub loudness: String,
    /// Whether it goes over full scale.
    pub over: bool,
}

/// A partial and what makes it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ExplainedView {
    /// Where it is heard, in hertz.
    pub hz: f64,
    /// How strong theory has it, in dB of full scale.
    pub predicted_db: f64,
    /// How strong it is in the sound; none where no partial stands out there.
    pub measured_db: Option<f64>,
    /// The strongest combination that makes it.
    pub words: String,
    /// How many combinations meet there.
    pub meeting: usize,
    /// The operator that causes it.
    pub by: UnitId,
    /// All units that take part in it.
    pub units: Vec<UnitId>,
    /// Whether it was mirrored.
    pub folded: bool,
    /// Frequency, level by theory and as measured, in words.
    pub heard: String,
    pub predicted: String,
    pub measured: String,
    /// All three in one line.
    pub figures: String,
    /// Where it was mirrored, in a few words; empty if it was not.
    pub mirrored: &'static str,
    /// The same with what helps.
    pub mirrored_why: &'static str,
}

/// Everything theory says of a moment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ExplanationView {
    /// Strongest first.
    pub partials: Vec<ExplainedView>,
    /// What is heard but has no closed theory, each once.
    pub beyond: Vec<String>,
    /// Modulators that change nothing, and from where on they will, in words.
    pub idle: Vec<String>,
}

/// A frequency of a partial in words.
fn hertz(hz: f64) -> String {
    match hz {
        // where a hertz more or less is heard
        hz if hz < 99.95 => format!("{} Hz", fixed(hz, 1)),
        hz if hz < 999.5 => format!("{} Hz", fixed(hz, 0)),
        hz => format!("{} kHz", fixed(hz / 1000.0, 2)),
    }
}

impl PartialView {
    /// A partial that is heard, and what makes it.
    pub fn of(partial: &Partial, explanation: &Explanation) -> Self {
        let made = explanation.of(partial);
        PartialView {
            hz: partial.hz,
            db: partial.db,
            words: hertz(partial.hz),
            by: made.map(|made| made.by),
            made_by: made.map_or_else(String::new, |made| made.short.clone()),
        }
    }
}

impl From<Level> for LevelView {
    fn from(of: Level) -> Self {
        LevelView {
            true_peak_db: of.true_peak_db,
            loudness_lufs: of.loudness_lufs,
            true_peak: decibels(of.true_peak_db, "dB"),
            loudness: decibels(of.loudness_lufs, "LUFS"),
            over: of.true_peak_db > 0.0,
        }
    }
}

impl From<Explained> for ExplainedView {
    fn from(of: Explained) -> Self {
        let predicted = decibels(of.predicted_db, "dB");
        let (measured, as_measured) = match of.measured_db {
            Some(db) => (decibels(db, "dB"), decibels(db, "dB")),
            None if of.blended => ("blended".into(), "as one with its neighbour".into()),
            None => ("not found".into(), "not found".to_owned()),
        };
        let (mirrored, mirrored_why) = match of.folded {
            None => ("", ""),
            Some(Fold::Zero) => ("reflected at 0 Hz", "below 0 Hz, reflected up"),
            Some(Fold::Rate) => (
                "reflected at half the rate",
                "past half the sample rate, reflected down: raise the quality",
            ),
        };
        ExplainedView {
            figures: format!(
                "{}: predicted {predicted}, measured {as_measured}",
                hertz(of.hz)
            ),
            heard: format!("{} Hz", fixed(of.hz, 1)),
            predicted,
            measured,
            mirrored,
            mirrored_why,
            hz: of.hz,
            predicted_db: of.predicted_db,
            measured_db: of.measured_db,
            words: of.words,
            meeting: of.meeting,
            by: of.by,
            units: of.units,
            folded: of.folded.is_some(),
        }
    }
}

impl From<Explanation> for ExplanationView {
    fn from(of: Explanation) -> Self {
        let mut beyond: Vec<String> = vec![];
        for name in of.beyond {
            if !beyond.contains(&name) {
                beyond.push(name);
            }
        }
        ExplanationView {
            partials: of.partials.into_iter().map(Into::into).collect(),
            beyond,
            idle: of.idle,
        }
    }
}

/// Levels before and after an effect.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct EffectLevelView {
    pub id: EffectId,
    /// As places between silence and full scale, 0 to 1.
    pub before: f64,
    pub after: f64,
    pub peak_before: f64,
    pub peak_after: f64,
    /// Highest sample of what comes in, 1 at full scale.
    pub peak_gain: f64,
    /// What it changed, written.
    pub change: String,
}

impl From<&EffectLevels> for EffectLevelView {
    fn from(levels: &EffectLevels) -> Self {
        const FLOOR_DB: f64 = -60.0;
        let place = |db: f64| ((db - FLOOR_DB) / -FLOOR_DB).clamp(0.0, 1.0);
        let silent = levels.before_db < -150.0 && levels.after_db < -150.0;
        EffectLevelView {
            id: levels.id,
            before: place(levels.before_db),
            after: place(levels.after_db),
            peak_before: place(levels.peak_before_db),
            peak_after: place(levels.peak_after_db),
            peak_gain: db_gain(levels.peak_before_db),
            change: match silent {
                true => String::new(),
                false => text::signed_decibels(levels.after_db - levels.before_db),
            },
        }
    }
}

/// A sound in a band.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BandLevelView {
    /// Its name and span.
    pub label: &'static str,
    pub span: String,
    /// What an effect changed there, written; empty if none is looked at.
    pub change: String,
    /// In decibels.
    pub change_db: f64,
    /// Share of the sides in its power, 0 to 1, and written.
    pub width: f64,
    pub width_words: String,
    /// How alike both sides are, written.
    pub correlation: String,
    /// Low, and not in the middle.
    pub wide_low: bool,
}

/// Below this a band is as good as silent, in decibels.
const SILENT_DB: f64 = -80.0;
/// Share of the sides from which on lows count as wide.
const WIDE_LOW: f64 = 0.1;

/// What there is in each band, and what an effect changed there.
pub fn bands_of(
    all: &[BandPower; BANDS.len()],
    effect: Option<([BandPower; BANDS.len()], [BandPower; BANDS.len()])>,
) -> Vec<BandLevelView> {
    let hz = |hz: f64| match hz >= 1_000.0 {
        true => format!("{} k", fixed(hz / 1_000.0, 0)),
        false => fixed(hz, 0),
    };
    let each = BANDS.iter().zip(all).enumerate();
    each.map(|(at, (band, power))| {
        let change_db = effect.map_or(0.0, |(before, after)| {
            let (a, b) = (before[at].db(), after[at].db());
            if a.max(b) < SILENT_DB {
                0.0
            } else {
                (b - a).clamp(-60.0, 60.0)
            }
        });
        let there = power.db() > SILENT_DB;
        let width = if there { power.width() } else { 0.0 };
        BandLevelView {
            label: band.label,
            span: format!("{}–{}", hz(band.from_hz), hz(band.to_hz)),
            change: match effect {
                Some(_) => text::signed_decibels(change_db),
                None => String::new(),
            },
            change_db,
            width,
            width_words: format!("{} %", fixed(width * 100.0, 0)),
            correlation: match there {
                true => format!("{:+.2}", power.correlation()).replace('-', "\u{2212}"),
                false => "\u{2013}".into(),
            },
            wide_low: there && band.label == "Low" && width > WIDE_LOW,
        }
    })
    .collect()
}
