//! One note of a patch as samples, or its phrase.

use std::collections::BTreeSet;

use zolvik_engine::program::{Prepared, compile, prepare, prepare_with};
use zolvik_engine::{BLOCK, EffectMeter, Engine};
use zolvik_patch::Patch;
use zolvik_patch::document::{EffectId, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::levels::{db_gain, gain_db};
use zolvik_play::{Player, Score};
use zolvik_waves::Clips;

use crate::note::{LENGTH_RANGE_S, Note};
use crate::rendered::{EffectLevels, Rendered, Tapped};
use crate::take::{Take, VoicesOf};

/// A patch with all it reads, nothing muted.
pub fn prepared(patch: &Patch) -> Prepared {
    prepare(patch, &Listening::default())
}

/// Renders a note. The release falls on the first block at or after `hold_s`.
pub fn render(patch: &Patch, note: &Note) -> Rendered {
    render_program(&prepare(patch, &Listening::default()), note)
}

/// Asked now and then in the middle of a render, with how much of it is done from 0 to 1: whether to go on.
pub type GoOn<'a> = &'a dyn Fn(f64) -> bool;
/// Blocks from one question to the next: some milliseconds of the slowest patch.
const BETWEEN: usize = 64;

/// Renders a note for a file: as finely as the patch asks for files, with recordings that were brought in.
pub fn render_for_file(patch: &Patch, note: &Note, clips: &dyn Clips) -> Rendered {
    render_as_heard(patch, &Listening::default(), note, clips)
}

/// The same, unless it is given up meanwhile.
pub fn render_while(
    patch: &Patch,
    note: &Note,
    clips: &dyn Clips,
    go_on: GoOn<'_>,
) -> Option<Rendered> {
    let prepared = prepare_with(&patch.for_files(), &Listening::default(), clips);
    let mut run = Run::note(Player::new(note.rate_hz), &prepared, note);
    run.goes(go_on).then(|| run.end().0)
}

/// The same without what is muted for now.
pub fn render_as_heard(
    patch: &Patch,
    listening: &Listening,
    note: &Note,
    clips: &dyn Clips,
) -> Rendered {
    let prepared = prepare_with(&patch.for_files(), listening, clips);
    render_program(&prepared, note)
}

/// Renders a note of a prepared patch, muted or soloed as it may be.
pub fn render_program(prepared: &Prepared, note: &Note) -> Rendered {
    Run::note(Player::new(note.rate_hz), prepared, note).whole()
}

/// A phrase to render: the patch's own, from its auditioned key on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Phrased {
    /// Length of the result, in seconds.
    pub length_s: f64,
    /// Sample rate in hertz.
    pub rate_hz: f64,
    /// Whether the beat is in it.
    pub with_beat: bool,
}

/// Shortest and longest render of a phrase, in seconds.
pub const PHRASE_RANGE_S: (f64, f64) = (0.01, 1500.0);

impl Phrased {
    /// The phrase of a patch once, and until it has sounded out; of a patch without one its auditioned note.
    pub fn to_its_end(patch: &Patch, rate_hz: f64) -> Self {
        let score = Score::of(patch);
        let program = compile(patch, &Listening::default());
        let keys: BTreeSet<(u8, u8)> = score.keys().collect();
        let each = keys.into_iter();
        let tails = each.map(|(key, velocity)| program.tail_of_s(key, velocity));
        let tail_s = tails.fold(0.0, f64::max);
        let seconds = score.end_beats() * 60.0 / patch.audition.tempo_bpm;
        Phrased {
            length_s: (seconds + tail_s + 0.02).clamp(PHRASE_RANGE_S.0, PHRASE_RANGE_S.1),
            rate_hz,
            with_beat: false,
        }
    }
}

/// Renders the phrase of a patch once. The way down from a higher rate takes no time here: what is to sound at a beat stands there.
pub fn render_phrase(prepared: &Prepared, patch: &Patch, how: &Phrased) -> Rendered {
    let mut run = Run::phrase(Player::new(how.rate_hz), prepared, patch, how);
    while run.go(1 << 16) {}
    phrase_of(run, patch, how)
}

/// The same, unless it is given up meanwhile.
pub fn render_phrase_while(
    prepared: &Prepared,
    patch: &Patch,
    how: &Phrased,
    go_on: GoOn<'_>,
) -> Option<Rendered> {
    let mut run = Run::phrase(Player::new(how.rate_hz), prepared, patch, how);
    run.goes(go_on).then(|| phrase_of(run, patch, how))
}

fn phrase_of(mut run: Run, patch: &Patch, how: &Phrased) -> Rendered {
    if how.with_beat {
        let gain = db_gain(patch.playing.beat_db) as f32;
        for (at, beat) in run.beat.iter().enumerate() {
            run.sound.left[at] += beat * gain;
            run.sound.right[at] += beat * gain;
        }
    }
    run.end().0
}

/// What is done with the voices of a note.
enum Kept {
    Records(VoicesOf),
    Plays(Take),
}

/// A render under way: so many blocks at a time.
pub struct Run {
    player: Player,
    sound: Rendered,
    beat: Vec<f32>,
    effects: Effects,
    /// Frames that are computed first and left out.
    skip: usize,
    frames: usize,
    /// Frames computed, those left out among them.
    done: usize,
    /// The key to be let go, and at which frame.
    release: Option<(u8, usize)>,
    kept: Option<Kept>,
    now: Vec<f32>,
    place: Vec<[f32; 2]>,
    motion: Vec<f32>,
}

impl Run {
    /// Begins a note with a player of its rate, which forgets what it played before.
    pub fn note(player: Player, prepared: &Prepared, note: &Note) -> Self {
        Run::begun(player, prepared, note)
    }

    /// The same, whose voices come from a take if that has them, or are kept for one: [`Run::end`] gives it.
    pub fn kept_note(player: Player, prepared: &Prepared, note: &Note, take: Option<Take>) -> Self {
        let mut run = Run::begun(player, prepared, note);
        let all = run.frames + run.skip;
        let engine = &mut run.player.engine;
        match take.filter(|take| take.has(all) && take.fits(prepared, note)) {
            Some(mut take) => {
                engine.play_voices(take.capture());
                run.kept = Some(Kept::Plays(take));
            }
            None => {
                run.kept = VoicesOf::new(prepared, note).map(Kept::Records);
                if run.kept.is_some() {
                    engine.capture_voices();
                }
            }
        }
        run
    }

    /// Whether the voices come from a take.
    pub fn plays_a_take(&self) -> bool {
        matches!(self.kept, Some(Kept::Plays(_)))
    }

    fn begun(mut player: Player, prepared: &Prepared, note: &Note) -> Self {
        player.begin_anew();
        player.engine.take(prepared);
        note.controls.give(&mut player.engine, note.key);
        player.note_on(note.key, note.velocity);
        // what effects are late by is left out
        let skip = player.engine.effect_latency_frames();
        let length_s = note.length_s.clamp(LENGTH_RANGE_S.0, LENGTH_RANGE_S.1);
        let release = ((note.hold_s * note.rate_hz) as usize).div_ceil(BLOCK) * BLOCK;
        let mut run = Run::new(prepared, player, skip, length_s, note.rate_hz);
        run.release = Some((note.key, release));
        run
    }

    /// Begins the phrase of a patch.
    pub fn phrase(mut player: Player, prepared: &Prepared, patch: &Patch, how: &Phrased) -> Self {
        player.begin_anew();
        player.engine.take(prepared);
        player.play(Score::of(patch), false);
        let skip = player.engine.latency_frames();
        let length_s = how.length_s.clamp(PHRASE_RANGE_S.0, PHRASE_RANGE_S.1);
        Run::new(prepared, player, skip, length_s, how.rate_hz)
    }

    fn new(prepared: &Prepared, player: Player, skip: usize, length_s: f64, rate_hz: f64) -> Self {
        let frames = (length_s * rate_hz).round() as usize;
        let units: Vec<UnitId> = prepared.program.unit_ids().collect();
        let (sources, links) = prepared.program.movement_counts();
        let blocks = (frames + skip).div_ceil(BLOCK);
        let courses = |count: usize| (0..count).map(|_| Vec::with_capacity(blocks)).collect();
        Run {
            player,
            beat: Vec::with_capacity(frames),
            effects: Effects::new(prepared),
            skip,
            frames,
            done: 0,
            release: None,
            kept: None,
            now: vec![0.0; units.len()],
            place: vec![[0.0; 2]; sources],
            motion: vec![0.0; links],
            sound: Rendered {
                left: Vec::with_capacity(frames),
                right: Vec::with_capacity(frames),
                rate_hz,
                amplitudes: courses(units.len()),
                units,
                places: courses(sources),
                motions: courses(links),
                effects: vec![],
                tapped: None,
            },
        }
    }

    /// Computes up to so many blocks more. Gives whether there is more to come.
    pub fn go(&mut self, blocks: usize) -> bool {
        let (mut left, mut right, mut beat) = ([0.0; BLOCK], [0.0; BLOCK], [0.0; BLOCK]);
        let all = self.frames + self.skip;
        for _ in 0..blocks {
            if self.done >= all {
                return false;
            }
            if let Some((key, _)) = self.release.filter(|(_, at)| *at == self.done) {
                self.player.note_off(key);
            }
            let count = BLOCK.min(all - self.done);
            let (l, r, b) = (&mut left[..count], &mut right[..count], &mut beat[..count]);
            self.player.process(l, r, b);
            let from = self.skip.saturating_sub(self.done).min(count);
            self.sound.left.extend_from_slice(&l[from..]);
            self.sound.right.extend_from_slice(&r[from..]);
            self.beat.extend_from_slice(&b[from..]);
            self.look();
            self.done += count;
        }
        self.done < all
    }

    fn look(&mut self) {
        let engine = &self.player.engine;
        self.effects.look(engine);
        if let Some(Kept::Plays(take)) = &self.kept {
            return take.draw(self.done / BLOCK, &mut self.sound);
        }
        engine.amplitudes(&mut self.now);
        for (now, curve) in self.now.iter().zip(&mut self.sound.amplitudes) {
            curve.push(*now);
        }
        engine.places(&mut self.place);
        engine.motions(&mut self.motion);
        for ([now, _], curve) in self.place.iter().zip(&mut self.sound.places) {
            curve.push(*now);
        }
        for (now, curve) in self.motion.iter().zip(&mut self.sound.motions) {
            curve.push(*now);
        }
    }

    /// What there is of it.
    pub fn sound(&self) -> &Rendered {
        &self.sound
    }

    /// What stands before and after the effect that is looked at, as far as there is any, with what comes before the sound.
    pub fn seen(&self) -> Option<(&Tapped, usize)> {
        self.effects.tap.map(|_| (&self.effects.seen, self.skip))
    }

    /// Computes all of it, unless it is given up; gives whether it was not.
    fn goes(&mut self, go_on: GoOn<'_>) -> bool {
        let all = (self.frames + self.skip).max(1) as f64;
        loop {
            if !go_on(self.done as f64 / all) {
                return false;
            }
            if !self.go(BETWEEN) {
                return true;
            }
        }
    }

    fn whole(mut self) -> Rendered {
        while self.go(1 << 16) {}
        self.end().0
    }

    /// The whole, the player for the next, and its voices where they are kept: those of one that was broken off are not.
    pub fn end(mut self) -> (Rendered, Player, Option<Take>) {
        let whole = self.done >= self.frames + self.skip;
        let capture = self.player.engine.capture();
        let take = match (self.kept.take(), capture) {
            (Some(Kept::Records(of)), Some(capture)) if whole => {
                Some(Take::new(of, capture, &self.sound))
            }
            (Some(Kept::Plays(mut take)), Some(capture)) => {
                take.wind(capture);
                Some(take)
            }
            _ => None,
        };
        self.sound.effects = self.effects.levels(self.done);
        self.sound.tapped = self.effects.tapped(self.skip, self.frames);
        (self.sound, self.player, take)
    }
}

/// What is seen of effects while they are rendered.
struct Effects {
    ids: Vec<EffectId>,
    now: Vec<EffectMeter>,
    sums: Vec<EffectMeter>,
    blocks: f32,
    tap: Option<usize>,
    seen: Tapped,
}

impl Effects {
    fn new(prepared: &Prepared) -> Self {
        let ids: Vec<EffectId> = prepared.program.effect_ids().collect();
        let tap = prepared.tap;
        Effects {
            now: vec![EffectMeter::default(); ids.len()],
            sums: vec![EffectMeter::default(); ids.len()],
            blocks: 0.0,
            tap: tap.and_then(|tap| ids.iter().position(|id| *id == tap)),
            seen: Tapped::default(),
            ids,
        }
    }

    fn look(&mut self, engine: &Engine) {
        if self.ids.is_empty() {
            return;
        }
        engine.effect_meters(&mut self.now);
        self.blocks += 1.0;
        for (sum, now) in self.sums.iter_mut().zip(&self.now) {
            sum.before += now.before;
            sum.after += now.after;
            sum.peak_before = sum.peak_before.max(now.peak_before);
            sum.peak_after = sum.peak_after.max(now.peak_after);
        }
        if let Some(tap) = self.tap {
            let [before, after] = engine.tapped();
            for channel in 0..2 {
                self.seen.before[channel].extend_from_slice(&before[channel]);
                self.seen.after[channel].extend_from_slice(&after[channel]);
            }
            self.seen.gain_db.push(self.now[tap].gain_db);
        }
    }

    fn levels(&self, frames: usize) -> Vec<EffectLevels> {
        let blocks = (frames as f32 / BLOCK as f32).max(1.0);
        let db = |gain: f64| gain_db(gain.max(1e-10));
        let power = |sum: f32| db(f64::from(sum / blocks).sqrt());
        let each = self.ids.iter().zip(&self.sums);
        each.map(|(id, sum)| EffectLevels {
            id: *id,
            before_db: power(sum.before),
            after_db: power(sum.after),
            peak_before_db: db(sum.peak_before.into()),
            peak_after_db: db(sum.peak_after.into()),
        })
        .collect()
    }

    /// Aligned with what leaves as well as the effects after it let it.
    fn tapped(mut self, skip: usize, frames: usize) -> Option<Tapped> {
        self.tap?;
        for channel in self.seen.before.iter_mut().chain(&mut self.seen.after) {
            channel.drain(..skip.min(channel.len()));
            channel.resize(frames, 0.0);
        }
        self.seen
            .gain_db
            .drain(..(skip / BLOCK).min(self.seen.gain_db.len()));
        Some(self.seen)
    }
}
