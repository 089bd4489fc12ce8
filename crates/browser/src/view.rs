//! All the screen shows of a document, in words and places, so that the page holds no rule of the job.

use serde::Serialize;
use zolvik_engine::cost::cost;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::arrange::{self, Rail, rails, rows};
use zolvik_patch::catalogue::{CATALOGUE, Owner, ParamId, level_gain, param, pass_gain};
use zolvik_patch::choice::{CHOICES, Choice, ChoiceId, choice, of_patch, of_unit};
use zolvik_patch::document::{
    Bus, Filter, Group, GroupId, KindName, Operator, Response, Route, RouteId, RouteKind, Send,
    Slot, Start, TunedBy, Unit, UnitId, UnitKind,
};
use zolvik_patch::envelope::BEAT_S;
use zolvik_patch::filter::cutoff_hz;
use zolvik_patch::hearing::{Listening, Unheard, unheard, ways_out};
use zolvik_patch::history::History;
use zolvik_patch::pitch::{
    auditioned_hz, nearest_note, nominal_ratio, note_name, operator_hz, ratio_pair,
};
use zolvik_patch::shape::{Handle, auditioned_scale, cut_off, handles};
use zolvik_patch::sound::Sound;
use zolvik_patch::text;
use zolvik_patch::wave::{Shape, TableId, Wave};

use crate::inspect::wave_name;

/// The document as the screen shows it.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct DocumentView {
    /// Name of the patch.
    pub name: String,
    /// Tags.
    pub tags: Vec<String>,
    /// How to play it.
    pub note: String,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would do again.
    pub redo: Option<String>,
    /// Strips from top to bottom.
    pub strips: Vec<StripView>,
    /// Rails beside them.
    pub rails: Vec<Rail>,
    /// Values of the patch as a whole.
    pub values: Vec<ValueView>,
    /// What is muted and soloed.
    pub listening: Listening,
    /// Key, velocity and hold of the auditioned note, and the window it is drawn in.
    pub audition: AuditionView,
    /// Whether another operator fits.
    pub full: bool,
    /// Names of the waves the audio thread needs.
    pub banks: Vec<String>,
    /// Contents of the recordings the patch plays that were brought in.
    pub sounds: Vec<String>,
    /// What the keys are tuned to; none for equal temperament.
    pub scale: Option<String>,
    /// What is one of a few, of the patch as a whole.
    pub choices: Vec<ChoiceView>,
    /// Imported tables.
    pub tables: Vec<TableView>,
    /// Which of two states this is.
    pub slot: Slot,
    /// Whether there is another state.
    pub has_other: bool,
    /// Groups of strips.
    pub groups: Vec<GroupView>,
    /// Whether arrangements are being tried.
    pub trying: bool,
}

/// A group of strips.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct GroupView {
    /// Its number.
    pub id: GroupId,
    /// Its name.
    pub name: String,
    /// Its units, in the order of the strips.
    pub units: Vec<UnitId>,
    /// Whether its strips are drawn as one.
    pub folded: bool,
    /// Whether all of it is muted for now.
    pub muted: bool,
    /// Whether all of it is soloed for now.
    pub soloed: bool,
    /// Its level.
    pub values: Vec<ValueView>,
}

/// An imported table in the list.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct TableView {
    /// Its number.
    pub id: TableId,
    /// Its name.
    pub name: String,
    /// How many units use it.
    pub used: usize,
}

/// A bank's key as text.
pub fn key_name(key: u64) -> String {
    format!("{key:016x}")
}

/// The auditioned note in numbers.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct AuditionView {
    /// MIDI key.
    pub key: u8,
    /// Its name.
    pub name: String,
    /// 1 to 127.
    pub velocity: u8,
    /// In seconds.
    pub hold_s: f64,
    /// In seconds.
    pub window_s: f64,
    /// When the last sound of the note ends, in seconds from the press.
    pub end_s: f64,
}

/// A value with all a field needs.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ValueView {
    /// Which value.
    pub address: Address,
    /// Label.
    pub label: String,
    /// The value itself.
    pub value: f64,
    /// Written number.
    pub number: String,
    /// Written unit.
    pub unit: String,
    /// Place in its range, 0 to 1.
    pub place: f64,
    /// Place the bar starts from: 0, or the middle for values with sign.
    pub origin: f64,
}

/// One operator's strip.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct StripView {
    /// Number.
    pub id: UnitId,
    /// What it is.
    pub kind: KindName,
    /// What routes may do to it, the usual first.
    pub takes: Vec<RouteKind>,
    /// Whether it makes sound of its own.
    pub is_source: bool,
    /// Name.
    pub name: String,
    /// Switched on.
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// Bypassed for now.
    pub bypassed: bool,
    /// Carrier, modulator, both or unrouted, and to whom.
    pub role: String,
    /// The ways its sound takes to the output, in words.
    pub ways: Vec<String>,
    /// Which way an operator's pitch is given.
    pub tuned_by: Option<TunedBy>,
    /// Whether its wave was drawn by hand.
    pub has_bars: bool,
    /// Name of its wave, sound, response or curve.
    pub wave_label: String,
    /// Work it makes, as a multiple of a plain sine's.
    pub cost: f64,
    /// `×3.5`, `+7 st` or `440 Hz`.
    pub ratio: String,
    /// Detune and offset, if any.
    pub fine: String,
    /// Frequency at the auditioned note.
    pub hz: String,
    /// Nearest note and cents.
    pub note: String,
    /// Why it is not heard, if it is not.
    pub unheard: Option<Unheard>,
    /// Its values.
    pub values: Vec<ValueView>,
    /// What is one of a few.
    pub choices: Vec<ChoiceView>,
    /// Where it goes.
    pub sends: Vec<SendView>,
    /// Position of the deepest send, whose curve is shown.
    pub deepest: Option<usize>,
    /// Points of its envelope on the drawing.
    pub handles: Vec<Handle>,
    /// Its envelope.
    pub envelope: EnvelopeView,
    /// Where the end of the sound cuts it off, if it does.
    pub cut: Option<CutView>,
}

/// One of a few.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct ChoiceView {
    /// Which choice.
    pub id: ChoiceId,
    /// Label.
    pub label: &'static str,
    /// What can be chosen.
    pub options: Vec<&'static str>,
    /// What it does, in one sentence.
    pub help: &'static str,
    /// Position of what is chosen.
    pub at: usize,
}

/// What a route may do, or a way out.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct WayView {
    /// What it does at a unit.
    pub kind: Option<RouteKind>,
    /// Which way out.
    pub bus: Option<Bus>,
    /// In a word.
    pub label: &'static str,
    /// In some more.
    pub help: &'static str,
}

/// An envelope in values.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct EnvelopeView {
    /// Attack, decay, sustain, release; else a list of points.
    pub plain: bool,
    /// Time, level and curve of each point.
    pub points: Vec<PointView>,
    /// Whether times follow the tempo.
    pub in_beats: bool,
    /// Whether the held note goes round.
    pub loops: bool,
    /// Other units whose envelopes are edited with it.
    pub linked: Vec<UnitId>,
    /// Whether they are made alike.
    pub equal: bool,
}

/// A point of an envelope.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PointView {
    /// Time, level, curve; the end has no level.
    pub values: Vec<ValueView>,
    /// Held until the release.
    pub held: bool,
    /// The held note goes back here.
    pub looped: bool,
    /// Follows the release.
    pub released: bool,
}

/// Where a strip is cut off.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct CutView {
    /// In seconds from the press.
    pub time_s: f64,
    /// In words.
    pub words: String,
}

/// One send of a strip.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct SendView {
    /// Which route.
    pub route: RouteId,
    /// The unit, none for the output.
    pub to: Option<UnitId>,
    /// Name of the target.
    pub name: String,
    /// What it does at the unit; none for the output.
    pub kind: Option<RouteKind>,
    /// Which way out it takes; none for units.
    pub bus: Option<Bus>,
    /// Switched on.
    pub on: bool,
    /// Muted for now.
    pub muted: bool,
    /// Soloed for now.
    pub soloed: bool,
    /// What it may do there instead.
    pub kinds: Vec<WayView>,
    /// Carrier to modulator, such as `1 : 4`.
    pub pair: Option<String>,
    /// Index, or level and pan.
    pub values: Vec<ValueView>,
    /// Factor from amplitude to height on the strip: 1 fills it.
    pub height: f64,
    /// Marks of the scale.
    pub ticks: Vec<Tick>,
}

/// A mark of a strip's scale.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Tick {
    /// 0 at the foot, 1 at the top.
    pub height: f64,
    /// Words beside it.
    pub label: String,
}

/// Draws up the view of a document.
pub fn document_view(history: &History, listening: &Listening, missing: &[String]) -> DocumentView {
    let patch = history.present();
    let order = rows(patch);
    DocumentView {
        name: patch.meta.name.clone(),
        tags: patch.meta.tags.clone(),
        note: patch.meta.note.clone(),
        undo: history.undo_label().map(Into::into),
        redo: history.redo_label().map(Into::into),
        strips: order
            .iter()
            .filter_map(|id| patch.unit(*id))
            .map(|unit| strip(patch, listening, missing, unit))
            .collect(),
        rails: rails(patch),
        values: values(patch, Owner::Patch, 0),
        listening: listening.clone(),
        audition: audition(patch),
        full: patch.units.len() >= zolvik_patch::document::MAX_UNITS,
        banks: banks(patch),
        sounds: patch.contents(),
        scale: patch.scale.as_ref().map(|s| s.name.clone()),
        choices: CHOICES
            .iter()
            .filter_map(|row| choice_view(row, of_patch(patch, row.id)?))
            .collect(),
        tables: tables(patch),
        groups: patch
            .groups
            .iter()
            .map(|g| group(patch, listening, g, &order))
            .collect(),
        slot: patch.slot,
        has_other: patch.other.is_some(),
        trying: false,
    }
}

fn group(patch: &Patch, listening: &Listening, group: &Group, order: &[UnitId]) -> GroupView {
    let units = order.iter().filter(|id| group.units.contains(id));
    GroupView {
        id: group.id,
        name: group.name.clone(),
        units: units.copied().collect(),
        folded: group.folded,
        muted: group.units.iter().all(|id| listening.muted.contains(id)),
        soloed: group.units.iter().all(|id| listening.soloed.contains(id)),
        values: values(patch, Owner::Group, group.id.0),
    }
}

fn banks(patch: &Patch) -> Vec<String> {
    let waves = patch
        .units
        .iter()
        .filter_map(|u| Some(&u.oscillator()?.wave));
    let waves = waves.filter_map(|wave| zolvik_waves::key(wave, &patch.tables));
    let recordings = zolvik_waves::recording::samples(patch).map(zolvik_waves::recording::key);
    let mut keys: Vec<String> = waves.chain(recordings).map(key_name).collect();
    keys.sort_unstable();
    keys.dedup();
    keys
}

fn tables(patch: &Patch) -> Vec<TableView> {
    let uses = |id| move |u: &&Unit| u.oscillator().is_some_and(|o| o.wave == Wave::Own(id));
    let view = |t: &zolvik_patch::wave::OwnTable| TableView {
        id: t.id,
        name: t.name.clone(),
        used: patch.units.iter().filter(uses(t.id)).count(),
    };
    patch.tables.iter().map(view).collect()
}

fn audition(patch: &Patch) -> AuditionView {
    let a = &patch.audition;
    let sources = patch
        .units
        .iter()
        .filter(|u| u.kind.name().is_source() && patch.sounds(u.id));
    let tail_s = sources
        .map(|u| u.envelope.release_s() * auditioned_scale(patch, u))
        .fold(0.0, f64::max);
    AuditionView {
        key: a.note,
        name: note_name(a.note.into()),
        velocity: a.velocity,
        hold_s: a.hold_s,
        window_s: a.window_s,
        end_s: a.hold_s + tail_s,
    }
}

fn values(patch: &Patch, owner: Owner, id: u16) -> Vec<ValueView> {
    let rows = CATALOGUE.iter().filter(|row| row.owner == owner);
    rows.filter_map(|row| value_view(patch, Address::new(row.id, id)))
        .collect()
}

fn value_view(patch: &Patch, address: Address) -> Option<ValueView> {
    let value = address.get(patch).ok()?;
    let row = param(address.param);
    let in_beats = matches!(row.id, ParamId::PointTimeS | ParamId::EnvelopeDelayS)
        && value > 0.0
        && patch
            .unit(UnitId(address.id))
            .is_some_and(|u| u.envelope.in_beats);
    let written = match in_beats {
        true => text::write_beats(value, BEAT_S),
        false => text::write(row.id, value),
    };
    Some(ValueView {
        address,
        label: row.label.into(),
        value,
        number: written.number,
        unit: written.unit,
        place: row.place(value),
        origin: if row.min < 0.0 && row.min == -row.max {
            0.5
        } else {
            0.0
        },
    })
}

fn strip(patch: &Patch, listening: &Listening, missing: &[String], unit: &Unit) -> StripView {
    let heading = heading(patch, unit);
    let sends: Vec<&Route> = patch.sends(unit.id).collect();
    let deepest = (0..sends.len()).max_by(|a, b| rank(sends[*a]).total_cmp(&rank(sends[*b])));
    let kind = unit.kind.name();
    StripView {
        id: unit.id,
        kind,
        takes: kind.takes().to_vec(),
        is_source: kind.is_source(),
        name: unit.name.clone(),
        on: unit.on,
        muted: listening.muted.contains(&unit.id),
        soloed: listening.soloed.contains(&unit.id),
        bypassed: listening.bypassed.contains(&unit.id),
        role: role(patch, unit, &sends),
        ways: ways_out(patch, unit.id),
        tuned_by: unit.oscillator().map(|o| o.tuned_by),
        has_bars: unit
            .oscillator()
            .is_some_and(|o| matches!(o.wave, Wave::Bars(_))),
        wave_label: heading.label,
        ratio: heading.ratio,
        fine: heading.fine,
        hz: heading.hz,
        note: heading.note,
        cost: (cost(patch, unit) * 10.0).round() / 10.0,
        unheard: missing_audio(unit, missing).or_else(|| unheard(patch, listening, unit.id)),
        values: unit_values(patch, unit),
        choices: CHOICES
            .iter()
            .filter_map(|row| choice_view(row, of_unit(unit, row.id)?))
            .filter(|c| chosen_counts(unit, c.id))
            .collect(),
        sends: sends
            .iter()
            .map(|route| send(patch, listening, unit, route))
            .collect(),
        deepest,
        handles: handles(patch, unit.id),
        envelope: envelope(patch, unit),
        cut: cut_off(patch, unit.id).map(|(time_s, by)| CutView {
            time_s,
            words: format!(
                "cut off: {} ends here",
                patch.unit(by).map_or("", |u| u.name.as_str())
            ),
        }),
    }
}

/// Values of kinds of units in the order they are worked with; all others follow as in the catalogue.
const ORDER: [ParamId; 31] = [
    ParamId::CycleLean,
    ParamId::CycleRepeat,
    ParamId::CycleFold,
    ParamId::CycleSteps,
    ParamId::CycleLevels,
    ParamId::HarmonicsSpacing,
    ParamId::HarmonicsShift,
    ParamId::HarmonicsTiltDb,
    ParamId::HarmonicsBalance,
    ParamId::HarmonicsLow,
    ParamId::HarmonicsHigh,
    ParamId::SampleStart,
    ParamId::SampleEnd,
    ParamId::SampleSemitones,
    ParamId::SampleLoopStart,
    ParamId::SampleLoopEnd,
    ParamId::SampleCrossfadeS,
    ParamId::SampleRootKey,
    ParamId::FilterCutoffHz,
    ParamId::FilterResonance,
    ParamId::FilterVowel,
    ParamId::FilterSweepOct,
    ParamId::FilterKeyFollow,
    ParamId::FilterDriveDb,
    ParamId::FilterMix,
    ParamId::ShaperDriveDb,
    ParamId::ShaperMix,
    ParamId::OperatorRatio,
    ParamId::OperatorSemitones,
    ParamId::OperatorFixedHz,
    ParamId::OperatorDetuneCents,
];

fn unit_values(patch: &Patch, unit: &Unit) -> Vec<ValueView> {
    let mut list = values(patch, Owner::Unit, unit.id.0);
    list.retain(|v| counts(unit, v.address.param));
    let place = |v: &ValueView| ORDER.iter().position(|id| *id == v.address.param);
    list.sort_by_key(|v| place(v).unwrap_or(ORDER.len()));
    list
}

fn missing_audio(unit: &Unit, missing: &[String]) -> Option<Unheard> {
    let UnitKind::Sample(sample) = &unit.kind else {
        return None;
    };
    match &sample.sound {
        Sound::Own(own) if missing.contains(&own.content) => Some(Unheard {
            why: format!(
                "its audio “{}” is missing: choose or import another",
                own.name
            ),
            mend: None,
        }),
        _ => None,
    }
}

/// What stands at the head of a strip.
#[derive(Default)]
struct Heading {
    label: String,
    ratio: String,
    fine: String,
    hz: String,
    note: String,
}

fn heading(patch: &Patch, unit: &Unit) -> Heading {
    let key_hz = auditioned_hz(patch);
    let noted =
        |hz: f64| nearest_note(hz).map_or_else(String::new, |(key, cents)| note_words(key, cents));
    match &unit.kind {
        UnitKind::Operator(operator) => {
            let hz = operator_hz(operator, key_hz);
            Heading {
                label: wave_name(patch, &operator.wave).0,
                ratio: match operator.tuned_by {
                    TunedBy::Ratio => {
                        let written = text::write(ParamId::OperatorRatio, operator.ratio);
                        format!("×{}", written.number)
                    }
                    TunedBy::Semitones => {
                        text::write(ParamId::OperatorSemitones, operator.semitones).to_string()
                    }
                    TunedBy::Fixed => "fixed".into(),
                },
                fine: fine(operator),
                hz: hertz(hz),
                note: noted(hz),
            }
        }
        UnitKind::Noise(noise) => Heading {
            ratio: match noise.colour_db {
                c if c < -4.5 => "Very dark".into(),
                c if c < -0.5 => "Dark".into(),
                c if c <= 0.5 => "White".into(),
                _ => "Bright".into(),
            },
            hz: format!(
                "{}/oct",
                text::write(ParamId::NoiseColourDb, noise.colour_db)
            ),
            ..Heading::default()
        },
        UnitKind::Sample(sample) => {
            let semitones = match sample.key_follow {
                true => 12.0 * (key_hz / reference_of(sample.root_key)).log2(),
                false => 0.0,
            };
            let moved = semitones + sample.semitones;
            Heading {
                label: sound_name(&sample.sound),
                ratio: sound_name(&sample.sound),
                fine: match moved.abs() < 0.005 {
                    true => String::new(),
                    false => text::write(ParamId::OperatorSemitones, moved).to_string(),
                },
                hz: if sample.looped { "loop" } else { "once" }.into(),
                note: if sample.reverse { "reverse" } else { "" }.into(),
            }
        }
        UnitKind::Filter(filter) => {
            let hz = cutoff_hz(filter, key_hz, 0.0);
            let comb = filter.response.is_comb();
            let label = choice(ChoiceId::FilterResponse).options[filter.response as usize];
            let slope = choice(ChoiceId::FilterSlope).options[filter.slope as usize];
            let sloped = !comb && filter.response != Response::Vowel;
            Heading {
                ratio: if sloped {
                    format!("{label} {slope}")
                } else {
                    label.into()
                },
                hz: hertz(hz),
                note: if comb { noted(hz) } else { String::new() },
                ..Heading::default()
            }
        }
        UnitKind::Shaper(shaper) => Heading {
            ratio: choice(ChoiceId::ShaperBend).options[shaper.bend as usize].into(),
            hz: text::write(ParamId::ShaperDriveDb, shaper.drive_db).to_string(),
            ..Heading::default()
        },
    }
}

fn reference_of(key: u8) -> f64 {
    zolvik_patch::pitch::key_hz(key.into())
}

/// A frequency as it is written on strips.
fn hertz(hz: f64) -> String {
    if hz < 9999.5 {
        format!("{} Hz", text::fixed(hz, 1))
    } else {
        format!("{} kHz", text::fixed(hz / 1000.0, 2))
    }
}

/// Name of what a sample plays.
pub fn sound_name(sound: &Sound) -> String {
    match sound {
        Sound::Ready(ready) => ready.label().into(),
        Sound::Own(own) => own.name.clone(),
    }
}

fn choice_view(row: &Choice, at: usize) -> Option<ChoiceView> {
    Some(ChoiceView {
        id: row.id,
        label: row.label,
        options: row.options.to_vec(),
        help: row.help,
        at,
    })
}

/// Whether a choice has any bearing on how a unit sounds now.
fn chosen_counts(unit: &Unit, id: ChoiceId) -> bool {
    match (&unit.kind, id) {
        (UnitKind::Filter(f), ChoiceId::FilterSlope) => {
            !f.response.is_comb() && f.response != Response::Vowel
        }
        _ => true,
    }
}

fn envelope(patch: &Patch, unit: &Unit) -> EnvelopeView {
    const PLAIN: [[&str; 3]; 3] = [
        ["Attack", "", "A curve"],
        ["Decay", "Sustain", "D curve"],
        ["Release", "", "R curve"],
    ];
    const PARAMS: [ParamId; 3] = [
        ParamId::PointTimeS,
        ParamId::PointLevel,
        ParamId::PointCurve,
    ];
    let env = &unit.envelope;
    let plain = env.is_plain();
    let (linked, equal) = patch.linked(unit.id);
    let point = |at: usize| {
        let value = |i: usize| {
            let mut view = value_view(patch, Address::point(unit.id, at, PARAMS[i]))?;
            if plain {
                view.label = PLAIN[at][i].into();
            } else {
                view.label = format!("{} {}", view.label, at + 1);
            }
            let is_end = i == 1 && at + 1 == env.points.len();
            (!is_end && !view.label.is_empty()).then_some(view)
        };
        PointView {
            values: (0..3).filter_map(value).collect(),
            held: at == usize::from(env.held),
            looped: env.loop_from.is_some_and(|from| usize::from(from) == at),
            released: at > usize::from(env.held),
        }
    };
    EnvelopeView {
        plain,
        points: (0..env.points.len()).map(point).collect(),
        in_beats: env.in_beats,
        loops: env.loop_from.is_some(),
        linked,
        equal,
    }
}

/// Whether a value of a unit has any bearing on how it sounds now.
fn counts(unit: &Unit, param: ParamId) -> bool {
    match &unit.kind {
        UnitKind::Operator(operator) => match param {
            ParamId::OperatorRatio => operator.tuned_by == TunedBy::Ratio,
            ParamId::OperatorSemitones => operator.tuned_by == TunedBy::Semitones,
            ParamId::OperatorFixedHz => operator.tuned_by == TunedBy::Fixed,
            ParamId::OperatorPosition => operator.wave.is_scanned(),
            ParamId::OperatorWidth => operator.wave == Wave::Shape(Shape::Pulse),
            ParamId::OperatorStartTurns => operator.start == Start::Fixed,
            _ => true,
        },
        UnitKind::Sample(sample) => match param {
            ParamId::SampleLoopStart | ParamId::SampleLoopEnd | ParamId::SampleCrossfadeS => {
                sample.looped
            }
            ParamId::SampleRootKey => sample.key_follow,
            _ => true,
        },
        UnitKind::Filter(filter) => match param {
            ParamId::FilterVowel => filter.response == Response::Vowel,
            ParamId::UnitKeyLevelDb => false,
            _ => true,
        },
        UnitKind::Shaper(_) => param != ParamId::UnitKeyLevelDb,
        UnitKind::Noise(_) => true,
    }
}

/// What reaches the output is shown first, then the deepest modulation.
fn rank(route: &Route) -> f64 {
    let on = if route.on { 0.0 } else { -1000.0 };
    on + match route.send {
        Send::Output { .. } => 100.0,
        _ => arrange::weight(&route.send),
    }
}

fn role(patch: &Patch, unit: &Unit, sends: &[&Route]) -> String {
    let name = |id: UnitId| patch.unit(id).map_or("", |u| u.name.as_str());
    let moved: Vec<&str> = sends
        .iter()
        .filter(|r| r.send.kind() != Some(RouteKind::Audio) && r.send.target() != Some(r.from))
        .filter_map(|r| r.send.target())
        .map(name)
        .collect();
    let what = match unit.kind.name() {
        KindName::Operator => "Carrier",
        other => other.label(),
    };
    match (patch.sounds(unit.id), moved.is_empty()) {
        (true, true) => what.into(),
        (true, false) => format!("{what}, and modulator to {}", moved.join(", ")),
        (false, false) => format!("Modulator to {}", moved.join(", ")),
        (false, true) => "Not routed".into(),
    }
}

fn fine(tuning: &Operator) -> String {
    let parts = [
        (ParamId::OperatorDetuneCents, tuning.detune_cents),
        (ParamId::OperatorOffsetHz, tuning.offset_hz),
    ];
    let words = parts
        .iter()
        .filter(|(_, v)| *v != 0.0)
        .map(|(id, v)| text::write(*id, *v).to_string());
    words.collect::<Vec<_>>().join(" ")
}

fn note_words(key: i32, cents: f64) -> String {
    let cents = cents.round();
    if cents == 0.0 {
        note_name(key)
    } else {
        format!(
            "{} {}{} ct",
            note_name(key),
            if cents > 0.0 { "+" } else { "−" },
            cents.abs()
        )
    }
}

fn send(patch: &Patch, listening: &Listening, unit: &Unit, route: &Route) -> SendView {
    let hz = auditioned_hz(patch);
    let to = route.send.target();
    let target = to.and_then(|id| patch.unit(id));
    let (height, ticks) = scale(patch, route);
    SendView {
        route: route.id,
        to,
        name: target.map_or_else(|| "Output".into(), |u| u.name.clone()),
        kind: route.send.kind(),
        bus: match route.send {
            Send::Output { bus, .. } => Some(bus),
            _ => None,
        },
        on: route.on,
        muted: listening.muted_routes.contains(&route.id),
        soloed: listening.soloed_routes.contains(&route.id),
        pair: target
            .and_then(|t| t.oscillator())
            .zip(unit.oscillator())
            .map(|(t, own)| ratio_pair(nominal_ratio(t, hz), nominal_ratio(own, hz))),
        kinds: ways_of(target),
        values: values(patch, Owner::Route, route.id.0),
        height,
        ticks,
    }
}

/// What a route may do at its target, or which ways out there are.
fn ways_of(target: Option<&Unit>) -> Vec<WayView> {
    let way = |kind, bus, label: &'static str, help: &'static str| WayView {
        kind,
        bus,
        label,
        help,
    };
    match target {
        Some(unit) => unit
            .kind
            .name()
            .takes()
            .iter()
            .map(|kind| {
                let (label, help) = match kind {
                    RouteKind::Phase => ("Phase", "moves the phase"),
                    RouteKind::Frequency if unit.kind.name() == KindName::Filter => {
                        ("Frequency", "moves the cutoff")
                    }
                    RouteKind::Frequency => ("Frequency", "moves it through zero"),
                    RouteKind::Ring => ("Ring", "multiplies"),
                    RouteKind::Amplitude => ("Amplitude", "moves the level"),
                    RouteKind::Audio => ("Audio", "goes through it"),
                };
                way(Some(*kind), None, label, help)
            })
            .collect(),
        None => vec![
            way(None, Some(Bus::Main), "Main", "through the effects"),
            way(
                None,
                Some(Bus::Second),
                "Second",
                "through the second chain",
            ),
            way(None, Some(Bus::Clean), "Clean", "past all effects"),
        ],
    }
}

/// All routes of a kind share one scale, so that strips can be compared.
fn scale(patch: &Patch, route: &Route) -> (f64, Vec<Tick>) {
    let tick = |height: f64, label: String| Tick { height, label };
    let kind = route.send.kind();
    let source = patch.unit(route.from).map(|u| &u.kind);
    if let Some(UnitKind::Filter(filter)) = source {
        return cutoff_scale(patch, filter);
    }
    let alike = || patch.routes.iter().filter(|r| r.send.kind() == kind);
    if matches!(kind, None | Some(RouteKind::Audio)) {
        let gain = |r: &Route| match r.send {
            Send::Output { level_db, .. } => level_gain(level_db) * patch.group_gain(r.from),
            Send::Audio { pass_db, .. } => pass_gain(pass_db),
            _ => 0.0,
        };
        // in steps, so that the scale stands still while something is dragged
        let loudest_db = 20.0 * alike().map(gain).fold(0.016, f64::max).log10();
        let top_db = ((loudest_db - 0.01) / 3.0).ceil() * 3.0;
        let full = 10f64.powf(top_db / 20.0) * 1.08;
        let ticks = [top_db, top_db - 6.0].map(|db| {
            tick(
                10f64.powf(db / 20.0) / full,
                format!("{} dB", text::fixed(db, 0)),
            )
        });
        return (gain(route) / full, ticks.into());
    }
    let (unit, times) = depth_unit(kind);
    let depth = |r: &Route| depth(&r.send) * times;
    let deepest = alike().map(depth).fold(times, f64::max);
    let full = [
        1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0, 32.0, 40.0, 100.0,
    ]
    .into_iter()
    .find(|top| *top >= deepest)
    .unwrap_or(100.0)
        * 1.08;
    let step = [0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0]
        .into_iter()
        .find(|s| full / s < 2.5)
        .unwrap_or(50.0);
    let label = |v: f64, unit: &str| format!("{}{unit}", text::fixed(v, usize::from(step < 1.0)));
    let top = (full / step).floor() * step;
    let mut ticks = vec![tick(top / full, label(top, unit))];
    if top > step {
        ticks.push(tick((top - step) / full, label(top - step, "")));
    }
    (depth(route) / full, ticks)
}

/// A filter's strip shows its cutoff: the envelope's zero lies at the cutoff itself.
fn cutoff_scale(patch: &Patch, filter: &Filter) -> (f64, Vec<Tick>) {
    let hz = auditioned_hz(patch);
    let at = |level: f64| match cutoff_hz(filter, hz, level) {
        hz if hz < 999.5 => format!("{} Hz", text::fixed(hz, 0)),
        hz => format!("{} kHz", text::fixed(hz / 1000.0, 1)),
    };
    let ticks = vec![
        Tick {
            height: 0.0,
            label: at(0.0),
        },
        Tick {
            height: 0.92,
            label: at(1.0),
        },
    ];
    (0.92, ticks)
}

/// Depth of a route to a unit, as the document has it.
fn depth(send: &Send) -> f64 {
    match send {
        Send::Phase { index_rad, .. } => *index_rad,
        Send::Frequency { deviation, .. } => *deviation,
        Send::Ring { mix, .. } => *mix,
        Send::Amplitude { amount, .. } => *amount,
        Send::Audio { .. } | Send::Output { .. } => 0.0,
    }
}

/// In what depths of a kind are written, and the factor to it.
fn depth_unit(kind: Option<RouteKind>) -> (&'static str, f64) {
    match kind {
        Some(RouteKind::Frequency) => (" ×", 1.0),
        Some(RouteKind::Ring | RouteKind::Amplitude) => (" %", 100.0),
        _ => (" rad", 1.0),
    }
}

/// What a strip puts out through a send at an amplitude, in words.
pub fn words(patch: &Patch, unit: UnitId, send: usize, amplitude: f64) -> String {
    let level = |gain: f64| {
        if gain < 2.5e-4 {
            "−∞ dB".into()
        } else {
            format!("{} dB", text::fixed(20.0 * gain.log10(), 1))
        }
    };
    if let Some(filter) = patch.unit(unit).and_then(zolvik_patch::filter::of) {
        return hertz(cutoff_hz(filter, auditioned_hz(patch), amplitude));
    }
    match patch.sends(unit).nth(send).map(|r| &r.send) {
        Some(Send::Output { level_db, .. }) => {
            level(level_gain(*level_db) * patch.group_gain(unit) * amplitude)
        }
        Some(Send::Audio { pass_db, .. }) => level(pass_gain(*pass_db) * amplitude),
        Some(send) => {
            let (unit, times) = depth_unit(send.kind());
            let decimals = if times > 1.0 { 0 } else { 2 };
            let now = depth(send) * amplitude * times;
            format!("{}{unit}", text::fixed(now, decimals))
        }
        None => String::new(),
    }
}
