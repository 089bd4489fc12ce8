//! How else chance might have it: where sources stand with other seeds.

use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Quality, VoiceSettings};
use zolvik_patch::movement::{Random, SourceKind};
use zolvik_patch::param::{Owner, PartId};

use zolvik_play::Player;

use crate::note::Note;
use crate::render::{Run, prepared};

/// How many other seeds are tried.
pub const SEEDS: u8 = 8;

/// Rate it is tried at, in hertz: what moves stands on a grid of 2 ms, as exact as a picture is.
const RATE_HZ: f64 = 8_000.0;

/// The lowest and highest place of a source at each column.
pub type Band = (Vec<f32>, Vec<f32>);

/// Seeds under trial, one after the other.
pub struct Trial {
    bare: Patch,
    note: Note,
    frames: Vec<usize>,
    bands: Vec<Band>,
    first: Vec<Vec<f32>>,
    differs: Vec<bool>,
    tried: u8,
    player: Option<Player>,
}

impl Trial {
    /// Of the note of a patch, at columns given by their times in seconds; none if chance touches nothing of it.
    pub fn new(patch: &Patch, times_s: &[f64]) -> Option<Self> {
        let chancy = |kind: &SourceKind| matches!(kind, SourceKind::Random(_));
        if !patch.movement.sources.iter().any(|s| chancy(&s.kind)) {
            return None;
        }
        let note = Note::auditioned(patch, RATE_HZ);
        let count = patch.movement.sources.len();
        Some(Trial {
            bare: bare(patch, &note),
            note,
            frames: times_s.iter().map(|t| (t * RATE_HZ) as usize).collect(),
            bands: vec![(vec![1.0; times_s.len()], vec![0.0; times_s.len()]); count],
            first: vec![],
            differs: vec![false; count],
            tried: 0,
            player: None,
        })
    }

    /// Tries the next seed. Gives whether there are more.
    pub fn go(&mut self) -> bool {
        self.tried += 1;
        let mut other = self.bare.clone();
        for source in &mut other.movement.sources {
            if let SourceKind::Random(Random { seed, .. }) = &mut source.kind {
                *seed = seed.wrapping_add(self.tried.wrapping_mul(29));
            }
        }
        let player = self.player.take().unwrap_or_else(|| Player::new(RATE_HZ));
        let mut run = Run::note(player, &prepared(&other), &self.note);
        while run.go(1 << 16) {}
        let (sound, player, _) = run.end();
        self.player = Some(player);
        for (at, places) in sound.places.iter().enumerate() {
            let course: Vec<f32> = self.frames.iter().map(|f| at_frame(places, *f)).collect();
            let (low, high) = &mut self.bands[at];
            for (column, place) in course.iter().enumerate() {
                low[column] = low[column].min(*place);
                high[column] = high[column].max(*place);
            }
            match self.first.get(at) {
                Some(known) => self.differs[at] |= *known != course,
                None => self.first.push(course),
            }
        }
        self.tried < SEEDS
    }

    /// The band of each source with the seeds tried so far; none for those that chance does not touch.
    pub fn bands(self) -> Vec<Option<Band>> {
        let told = self.bands.into_iter().zip(self.differs);
        told.map(|(band, differs)| differs.then_some(band))
            .collect()
    }
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
