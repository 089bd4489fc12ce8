//! Strips typed as a line, copied and pasted; and what is found by name.

use zolvik_edit::Edit;
use zolvik_edit::line::{NewStrip, copied, read, write};
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::playing::Playing;

use super::naming::Words;
use super::state::Page;
use crate::protocol::{Answer, Hit, HitOf, Refusal, Reply, WordView};
use crate::view::{
    ChoiceView, ValueView, effect_values, envelope_values, patch_choices, patch_values,
    route_values, source_values, unit_choices, unit_values,
};

/// Most that is found at once.
const MOST: usize = 24;

impl Page {
    /// What a typed line would make.
    pub(super) fn line(&self, text: &str) -> Answer {
        let word = |w: zolvik_edit::line::Word| WordView {
            text: w.text,
            meaning: w.meaning,
        };
        match read(text) {
            Ok(list) => Answer::Line {
                strips: list
                    .into_iter()
                    .map(|(_, words)| words.into_iter().map(word).collect())
                    .collect(),
                problem: None,
            },
            Err(error) => Answer::Line {
                strips: vec![],
                problem: Some(error.to_string()),
            },
        }
    }

    pub(super) fn take_line(&mut self, text: &str, units: &[UnitId]) -> Result<Reply, Refusal> {
        let (strips, selected): (Vec<NewStrip>, _) = match &self.copied_strips {
            Some((line, strips)) if line.trim() == text.trim() => (strips.clone(), None),
            _ => {
                let list = read(text)?;
                let strips = list.into_iter().map(|(strip, _)| strip);
                (strips.collect(), Some(units.to_vec()))
            }
        };
        if strips.is_empty() {
            return Err(Refusal::Cannot(
                "there is no strip in it; type one such as saw x0.5 -14dB 30L",
            ));
        }
        self.edit(&Edit::AddStrips { strips, selected }, None)
    }

    pub(super) fn copy_strips(&mut self, units: &[UnitId]) -> Answer {
        let patch = self.history.present();
        let text = write(patch, units);
        self.copied_strips = Some((text.clone(), copied(patch, units)));
        Answer::Text { text }
    }

    /// What has a name that holds all words, then values whose names do, the names of what they belong to counting too.
    pub(super) fn find(&self, text: &str) -> Answer {
        let patch = self.history.present();
        let words = Words::of(text);
        let far = |name: &str| {
            (!text.trim().is_empty())
                .then(|| words.called(name))
                .flatten()
        };
        let places = places(patch);
        let numbered =
            |of: HitOf| matches!(of, HitOf::Strip(id) if id.0.to_string() == text.trim());
        let mut hits: Vec<(u32, Hit)> = vec![];
        for place in places.iter().filter(|p| !p.kind.is_empty()) {
            let by_number = numbered(place.of).then_some(0);
            let hit = Hit {
                of: place.of,
                address: None,
                section: None,
                title: place.name.clone(),
                now: place.kind.into(),
            };
            hits.extend(by_number.or_else(|| far(&place.name)).map(|far| (far, hit)));
        }
        let things = hits.len();
        for place in &places {
            for view in &place.values {
                let title = match place.name.as_str() {
                    "" => view.label.clone(),
                    name => format!("{name}, {}", view.label.to_lowercase()),
                };
                // one that is called just so comes first, whatever it belongs to
                let own = far(&view.label);
                let all = far(&format!("{} {}", place.name, view.label)).map(|far| far + 1);
                let hit = Hit {
                    of: place.of,
                    address: Some(view.address),
                    section: Some(view.section),
                    title,
                    now: format!("{} {}", view.number, view.unit),
                };
                hits.extend(own.or(all).map(|far| (far, hit)));
            }
            for choice in &place.choices {
                let title = match place.name.as_str() {
                    "" => choice.label.into(),
                    name => format!("{name}, {}", choice.label.to_lowercase()),
                };
                // what can be chosen counts as well
                let options = choice.options.join(" ");
                let own = far(&title).or_else(|| far(&options).map(|far| far + 2));
                let hit = Hit {
                    of: place.of,
                    address: None,
                    section: Some(choice.section),
                    title,
                    now: choice
                        .options
                        .get(choice.at)
                        .copied()
                        .unwrap_or_default()
                        .into(),
                };
                hits.extend(own.map(|far| (far, hit)));
            }
        }
        hits[things..].sort_by_key(|(far, _)| *far);
        let hits = hits.into_iter().map(|(_, hit)| hit);
        Answer::Found {
            hits: hits.take(MOST).collect(),
        }
    }
}

/// What values stand under.
struct Place {
    of: HitOf,
    name: String,
    /// What it is, in a word; nothing for what cannot be gone to by itself.
    kind: &'static str,
    values: Vec<ValueView>,
    choices: Vec<ChoiceView>,
}

/// The patch, its strips with their sends, its sources of movement and its effects.
fn places(patch: &Patch) -> Vec<Place> {
    let mut list = vec![Place {
        of: HitOf::Patch,
        name: String::new(),
        kind: "",
        values: patch_values(patch),
        choices: patch_choices(patch),
    }];
    // the beat stands beside a phrase
    if patch.playing.phrase.is_none() {
        list[0]
            .values
            .retain(|v| v.address.param != Playing::BEAT_DB);
    }
    for unit in &patch.units {
        let of = HitOf::Strip(unit.id);
        list.push(Place {
            of,
            name: unit.name.clone(),
            kind: unit.kind.name().label(),
            values: [unit_values(patch, unit), envelope_values(patch, unit)].concat(),
            choices: unit_choices(unit),
        });
        list.extend(patch.sends(unit.id).map(|route| {
            let to = route.send.target().and_then(|id| patch.unit(id));
            let to = to.map_or("output", |target| target.name.as_str());
            Place {
                of,
                name: format!("{} to {to}", unit.name),
                kind: "",
                values: route_values(patch, route),
                choices: vec![],
            }
        }));
    }
    list.extend(patch.movement.sources.iter().map(|source| Place {
        of: HitOf::Source(source.id),
        name: source.name.clone(),
        kind: source.kind.name().label(),
        values: source_values(patch, source),
        choices: vec![],
    }));
    list.extend(patch.finish.effects().map(|effect| Place {
        of: HitOf::Effect(effect.id),
        name: effect.title().into(),
        kind: "Effect",
        values: effect_values(patch, effect),
        choices: vec![],
    }));
    list
}
