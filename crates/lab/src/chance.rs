//! How else chance might have it: where sources stand with other seeds.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Quality, VoiceSettings};
use zolvik_patch::movement::{Random, SourceKind};
use zolvik_patch::param::{Owner, PartId};

use crate::render::{Note, prepared, render_program};

/// How many other seeds are tried.
pub const SEEDS: u8 = 8;

/// For each source the lowest and highest place it comes to with other seeds, at so many columns given by their frames; none for those
/// that chance does not touch.
pub fn bands(patch: &Patch, note: &Note, frames: &[usize]) -> Vec<Option<(Vec<f32>, Vec<f32>)>> {
    let chancy = |kind: &SourceKind| matches!(kind, SourceKind::Random(_));
    if !patch.movement.sources.iter().any(|s| chancy(&s.kind)) {
        return vec![None; patch.movement.sources.len()];
    }
    let bare = bare(patch, note);
    let mut all: Vec<(Vec<f32>, Vec<f32>)> =
        vec![(vec![1.0; frames.len()], vec![0.0; frames.len()]); patch.movement.sources.len()];
    let mut first: Vec<Vec<f32>> = vec![];
    let mut differs = vec![false; all.len()];
    for n in 1..=SEEDS {
        let mut other = bare.clone();
        for source in &mut other.movement.sources {
            if let SourceKind::Random(Random { seed, .. }) = &mut source.kind {
                *seed = seed.wrapping_add(n.wrapping_mul(29));
            }
        }
        let places = render_program(&prepared(&other), note).places;
        for (at, places) in places.iter().enumerate() {
            let course: Vec<f32> = frames.iter().map(|f| at_frame(places, *f)).collect();
            let (low, high) = &mut all[at];
            for (column, place) in course.iter().enumerate() {
                low[column] = low[column].min(*place);
                high[column] = high[column].max(*place);
            }
            match first.get(at) {
                Some(known) => differs[at] |= *known != course,
                None => first.push(course),
            }
        }
    }
    let told = all.into_iter().zip(differs);
    told.map(|(band, differs)| differs.then_some(band))
        .collect()
}

fn at_frame(places: &[f32], frame: usize) -> f32 {
    let at = (frame / zolvik_engine::BLOCK).min(places.len().saturating_sub(1));
    places.get(at).copied().unwrap_or(0.0)
}

/// The patch with all that moves and nothing that sounds but one plain sine that lasts: quick to compute.
fn bare(patch: &Patch, note: &Note) -> Patch {
    let mut bare = Patch::empty();
    bare.voice = VoiceSettings {
        quality: Quality::X1,
        seed: patch.voice.seed,
        ..VoiceSettings::default()
    };
    bare.audition = patch.audition.clone();
    bare.movement = patch.movement.clone();
    if let Some(last) = bare.units[0].envelope.points.last_mut() {
        last.time_s = note.length_s.clamp(0.1, 20.0);
    }
    bare.movement.links.retain(|link| {
        let own = [Owner::Source, Owner::Link];
        own.contains(&param(link.to.param).owner) && link.to.param.part != PartId::Envelope
    });
    // amounts of links that were let go are moved by nothing
    loop {
        let known: Vec<u16> = bare.movement.links.iter().map(|l| l.id.0).collect();
        let before = known.len();
        bare.movement.links.retain(|link| {
            param(link.to.param).owner != Owner::Link || known.contains(&link.to.id)
        });
        if bare.movement.links.len() == before {
            break;
        }
    }
    let first = bare.units[0].id;
    for source in &mut bare.movement.sources {
        if let SourceKind::Follower(follower) = &mut source.kind {
            follower.unit = first;
        }
    }
    bare
}
