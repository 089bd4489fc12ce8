//! Writing strips as a line.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::{choice, param};
use zolvik_patch::document::Filter;
use zolvik_patch::document::Shaper;
use zolvik_patch::document::Unit;
use zolvik_patch::document::UnitId;
use zolvik_patch::document::{KindName, UnitKind};
use zolvik_patch::document::{Operator, TunedBy};
use zolvik_patch::document::{RouteKind, Send};
use zolvik_patch::envelope::Envelope;
use zolvik_patch::envelope::Point;
use zolvik_patch::param::ParamId;
use zolvik_patch::part::Part;
use zolvik_patch::text::write_exact;

/// Strips of a patch as a line, in their order: what they are, their tuning, where they lead and how strongly, and a plain
/// envelope. What has no word is left out.
pub fn write(patch: &Patch, units: &[UnitId]) -> String {
    let chosen = patch.units.iter().filter(|unit| units.contains(&unit.id));
    let chosen: Vec<&Unit> = chosen.collect();
    let several = chosen.len() > 1;
    let lines = chosen.iter().map(|unit| {
        let mut words = vec![];
        if several {
            words.push(format!("{}:", unit.id.0));
        }
        words.push(kind(unit));
        words.extend(values(unit));
        words.extend(envelope(unit));
        for route in patch.sends(unit.id) {
            words.extend(send(&route.send));
        }
        if unit.name != Unit::new(unit.id, unit.kind.name()).name {
            words.push(format!("\"{}\"", unit.name.replace('"', "'")));
        }
        words.join(" ")
    });
    lines.collect::<Vec<_>>().join("; ")
}

fn kind(unit: &Unit) -> String {
    let option = |id| {
        let at = unit.chosen_of(id).unwrap_or(0);
        choice(id).options[at]
            .to_lowercase()
            .replace(" −", "-")
            .replace(" +", "+")
    };
    match &unit.kind {
        UnitKind::Operator(operator) => operator.wave.label(),
        UnitKind::Filter(_) => option(Filter::RESPONSE),
        UnitKind::Shaper(_) => option(Shaper::CURVE),
        UnitKind::Noise(_) => KindName::Noise.label().to_lowercase(),
        UnitKind::Sample(_) => KindName::Sample.label().to_lowercase(),
        UnitKind::Level(_) => KindName::Level.label().to_lowercase(),
    }
}

/// A value without blanks.
fn glued(id: ParamId, value: f64) -> String {
    write_exact(id, value).replace(' ', "")
}

fn values(unit: &Unit) -> Vec<String> {
    let mut words = vec![];
    match &unit.kind {
        UnitKind::Operator(operator) => {
            words.push(match operator.tuned_by {
                TunedBy::Ratio => format!(
                    "x{}",
                    glued(Operator::RATIO, operator.ratio).trim_end_matches('×')
                ),
                TunedBy::Semitones => glued(Operator::SEMITONES, operator.semitones),
                TunedBy::Fixed => glued(Operator::FIXED_HZ, operator.fixed_hz),
            });
            if operator.detune_cents != 0.0 {
                words.push(glued(Operator::DETUNE_CENTS, operator.detune_cents));
            }
        }
        UnitKind::Filter(filter) => {
            words.push(glued(Filter::CUTOFF_HZ, filter.cutoff_hz));
            if filter.resonance != 0.0 {
                words.push(format!("res{}", glued(Filter::RESONANCE, filter.resonance)));
            }
        }
        _ => {}
    }
    if unit.copies > 0 {
        words.push(format!("{}copies", unit.copies));
    }
    words
}

/// A plain envelope, where it is not that of a new strip.
fn envelope(unit: &Unit) -> Vec<String> {
    let new = Unit::new(unit.id, unit.kind.name()).envelope;
    let plain = Envelope {
        points: unit.envelope.points.clone(),
        ..new.clone()
    };
    if unit.envelope == new || unit.envelope != plain || unit.envelope.points.len() != 3 {
        return vec![];
    }
    let [attack, decay, release] = [0, 1, 2].map(|at| &unit.envelope.points[at]);
    vec![
        format!("a{}", glued(Point::TIME_S, attack.time_s)),
        format!("d{}", glued(Point::TIME_S, decay.time_s)),
        format!("s{}", glued(Point::LEVEL, decay.level)),
        format!("r{}", glued(Point::TIME_S, release.time_s)),
    ]
}

fn send(send: &Send) -> Vec<String> {
    let of = |id: ParamId| send.get(id).unwrap_or(param(id).default);
    let place = |id: ParamId| (of(id) != 0.0).then(|| glued(id, of(id)));
    match (send.target(), send.kind()) {
        (Some(to), Some(kind)) => {
            let mut words = vec![format!("> {}", to.0)];
            words.extend(match kind {
                RouteKind::Phase => None,
                RouteKind::Frequency => Some("fm".into()),
                RouteKind::Ring => Some("ring".into()),
                RouteKind::Amplitude => Some("am".into()),
                RouteKind::Audio => Some("through".to_string()),
            });
            words.push(glued(kind.depth(), of(kind.depth())));
            words.extend(place(Send::PASS_PAN).filter(|_| kind == RouteKind::Audio));
            words
        }
        _ => {
            let mut words = vec![glued(Send::LEVEL_DB, of(Send::LEVEL_DB))];
            words.extend(place(Send::PAN));
            words
        }
    }
}
