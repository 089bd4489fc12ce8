//! The engine with what plays it: phrase, beat and arpeggiator on one clock.
#![deny(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

use bytemuck::{Pod, Zeroable};
use zolvik_engine::{BLOCK, Control, Engine};

use zolvik_patch::playing::beat::Drum;

use crate::arpeggiator::{Act, Arpeggiator, Struck};
use crate::drums::Drums;
use crate::score::{Score, ScoreTurn};

/// Notes of a phrase that are held at once; more end the oldest.
const MOST_HELD: usize = 64;
/// How long the pattern of the beat is, in beats.
const PATTERN_BEATS: f64 = zolvik_patch::playing::beat::PATTERN_BEATS;

/// Most messages that are kept while recording.
const MOST_KEPT: usize = 8192;

/// A message and when it was heard, in beats since the clock began.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub struct Kept {
    /// When.
    pub at_beats: f64,
    /// Status and data bytes; the last is nothing.
    pub message: [u8; 4],
    /// Nothing.
    pub reserved: u32,
}

/// A key the phrase holds, and when it goes up.
#[derive(Debug, Clone, Copy, Default)]
struct Held {
    key: u8,
    end_beats: f64,
}

/// Plays a patch: live, and a score beside that.
pub struct Player {
    /// What sounds.
    pub engine: Engine,
    arpeggiator: Arpeggiator,
    drums: Drums,
    score: Score,
    plays: bool,
    looped: bool,
    /// When the present round of the notes began, and of the beat.
    round_beats: f64,
    pattern_beats: f64,
    next_note: usize,
    next_stroke: usize,
    held: [Held; MOST_HELD],
    holds: usize,
    /// Keys that are held by hand, a bit for each.
    by_hand: u128,
    wheel: f64,
    bend: f64,
    /// Where the score was when it was stopped, in beats.
    left_beats: f64,
    rate_hz: f64,
    /// What was heard since recording began; no room while it does not record.
    kept: Vec<Kept>,
    records: bool,
    /// The beat of the block at hand, and how much of it is taken.
    beat: [f32; BLOCK],
    used: usize,
}

impl Player {
    /// For a sample rate in hertz, with no patch yet. Allocates; nothing after that does but [`Player::play`] frees what was played before.
    pub fn new(rate_hz: f64) -> Self {
        Player {
            engine: Engine::new(rate_hz),
            arpeggiator: Arpeggiator::new(),
            drums: Drums::new(rate_hz),
            score: Score::default(),
            plays: false,
            looped: false,
            round_beats: 0.0,
            pattern_beats: 0.0,
            next_note: 0,
            next_stroke: 0,
            held: [Held::default(); MOST_HELD],
            holds: 0,
            by_hand: 0,
            wheel: 0.0,
            bend: 0.0,
            left_beats: 0.0,
            rate_hz,
            kept: vec![],
            records: false,
            beat: [0.0; BLOCK],
            used: BLOCK,
        }
    }

    /// Forgets all that was played; what is played next has the bits a new player would give it. Not for the audio path.
    pub fn begin_anew(&mut self) {
        self.engine.begin_anew();
        self.arpeggiator = Arpeggiator::new();
        self.drums.begin_anew();
        self.score = Score::default();
        (self.plays, self.looped) = (false, false);
        (self.round_beats, self.pattern_beats) = (0.0, 0.0);
        (self.next_note, self.next_stroke) = (0, 0);
        self.holds = 0;
        self.by_hand = 0;
        (self.wheel, self.bend) = (0.0, 0.0);
        self.left_beats = 0.0;
        (self.kept, self.records) = (vec![], false);
        self.beat = [0.0; BLOCK];
        self.used = BLOCK;
    }

    /// Sample rate in hertz.
    pub fn rate_hz(&self) -> f64 {
        self.rate_hz
    }

    /// Plays a score from its beginning with the block that comes next; the clock begins anew. Not for the audio path: the score before
    /// is freed.
    pub fn play(&mut self, score: Score, looped: bool) {
        self.play_from(score, looped, 0.0);
    }

    /// Plays a score from a place on, in beats since its first round began; from its beginning where it ends before that. Notes that would
    /// have begun already are passed over. Not for the audio path, as [`Player::play`].
    pub fn play_from(&mut self, score: Score, looped: bool, at_beats: f64) {
        let over = !looped && at_beats >= score.length_beats;
        let at_beats = if over { 0.0 } else { at_beats.max(0.0) };
        self.release_held();
        self.engine.restart(at_beats);
        self.arpeggiator.restart();
        self.plays = true;
        self.round_beats = 0.0;
        self.pattern_beats = (at_beats / PATTERN_BEATS).floor() * PATTERN_BEATS;
        self.change(score, looped);
    }

    /// Where a score that was stopped is to go on, in beats since its first round began; 0 where it came to its end.
    pub fn left_beats(&self) -> f64 {
        self.left_beats
    }

    /// Puts another score in place of the one that is played, which goes on at the same place: after an edit. Not for the audio path.
    pub fn change(&mut self, score: Score, looped: bool) {
        if !self.plays {
            return;
        }
        let now = self.engine.beats();
        let length = score.length_beats;
        self.looped = looped;
        // the round there is keeps its begin as long as it still holds this moment
        if now - self.round_beats >= length && looped {
            let rounds = ((now - self.round_beats) / length).floor();
            self.round_beats += rounds * length;
        }
        let within = now - self.round_beats;
        self.next_note = score.notes.partition_point(|n| n.at_beats < within);
        let of_pattern = now - self.pattern_beats;
        self.next_stroke = score.strokes.partition_point(|s| s.at_beats < of_pattern);
        self.score = score;
    }

    /// Stops playing the score: its keys go up, the bend springs back.
    pub fn stop(&mut self) {
        if self.plays {
            self.left_beats = self.engine.beats();
        }
        self.plays = false;
        self.release_held();
        if self.bend != 0.0 {
            self.bend = 0.0;
            self.engine.pitch_bend(0.0);
        }
    }

    /// Begins or ends keeping all that is heard: keys as the arpeggiator makes them, wheels as they are turned. Not for the audio path:
    /// it allocates.
    pub fn record(&mut self, on: bool) {
        if on {
            self.kept = Vec::with_capacity(MOST_KEPT);
        }
        self.records = on;
    }

    /// What was heard since recording began.
    pub fn kept(&self) -> &[Kept] {
        &self.kept
    }

    fn keep(&mut self, at_beats: f64, message: [u8; 3]) {
        if self.records && self.kept.len() < self.kept.capacity() {
            let [a, b, c] = message;
            self.kept.push(Kept {
                at_beats,
                message: [a, b, c, 0],
                reserved: 0,
            });
        }
    }

    fn sound(&mut self, Struck { key, velocity }: Struck, at_beats: f64, frames: usize) {
        self.keep(at_beats, [0x90, key, velocity]);
        self.engine.note_on_within(key, velocity, frames);
    }

    fn end(&mut self, key: u8) {
        self.keep(self.engine.beats(), [0x80, key, 64]);
        self.engine.note_off(key);
    }

    /// Where in its score it is, in beats of the present round; none while it plays none.
    pub fn place_beats(&self) -> Option<f64> {
        self.plays.then(|| self.engine.beats() - self.round_beats)
    }

    fn release_held(&mut self) {
        for at in 0..self.holds {
            self.score_up(self.held[at].key);
        }
        self.holds = 0;
    }

    /// Takes a MIDI message, as [`Engine::midi`]; keys go through the arpeggiator.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn midi(&mut self, message: [u8; 3]) {
        let [status, key, velocity] = [message[0], message[1] & 127, message[2] & 127];
        match (status & 0xF0, key) {
            (0x90, _) if velocity > 0 => {
                self.engine.press_on(key, status & 15);
                self.note_on(key, velocity);
            }
            (0x80 | 0x90, _) if !self.hand_up(key) => {}
            (0x80 | 0x90, _) if self.arpeggiates() => {
                self.arpeggiator.lift(key, &self.engine.arpeggio());
            }
            (0xB0, 120 | 123) => {
                self.arpeggiator.clear();
                self.holds = 0;
                self.by_hand = 0;
                self.plays = false;
                if key == 120 {
                    self.drums.silence();
                }
                self.engine.midi(message);
            }
            _ => {
                self.keep(self.engine.beats(), message);
                self.engine.midi(message);
            }
        }
    }

    /// A key goes down with the block that comes next.
    pub fn note_on(&mut self, key: u8, velocity: u8) {
        let now = self.engine.beats();
        self.by_hand |= 1 << (key & 127);
        self.key_down(Struck { key, velocity }, now, 0);
    }

    /// A key goes up; what the score holds goes on.
    pub fn note_off(&mut self, key: u8) {
        if self.hand_up(key) {
            self.key_up(key);
        }
    }

    /// A hand lets a key go; gives whether it goes up.
    fn hand_up(&mut self, key: u8) -> bool {
        self.by_hand &= !(1 << (key & 127));
        !self.held[..self.holds].iter().any(|held| held.key == key)
    }

    /// The score lets a key go; what a hand holds goes on.
    fn score_up(&mut self, key: u8) {
        if self.by_hand & (1 << (key & 127)) == 0 {
            self.key_up(key);
        }
    }

    fn arpeggiates(&self) -> bool {
        self.engine.arpeggio().order != 0 || !self.arpeggiator.is_idle()
    }

    fn key_down(&mut self, struck: Struck, at_beats: f64, frames: usize) {
        let p = self.engine.arpeggio();
        match p.order {
            0 => self.sound(struck, at_beats, frames),
            _ => self.arpeggiator.press(struck, at_beats, self.plays, &p),
        }
    }

    fn key_up(&mut self, key: u8) {
        match self.engine.arpeggio().order {
            0 => self.end(key),
            _ => self.arpeggiator.lift(key, &self.engine.arpeggio()),
        }
    }

    /// Fills both channels with what the patch plays and a third with the beat; all must have the same length.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32], beat: &mut [f32]) {
        let mut done = 0;
        while done < left.len() {
            if self.engine.ready_frames() == 0 {
                self.plan();
                self.used = 0;
            }
            let there = match self.engine.ready_frames() {
                0 => BLOCK,
                there => there,
            };
            let until = (done + there).min(left.len());
            let count = until - done;
            self.engine
                .process(&mut left[done..until], &mut right[done..until]);
            let from = self.used.min(BLOCK - count.min(BLOCK));
            beat[done..until].copy_from_slice(&self.beat[from..from + count]);
            self.used += count;
            done = until;
        }
    }

    /// Does what falls into the block that comes next.
    fn plan(&mut self) {
        let beats_a_frame = self.engine.tempo_bpm() / 60.0 / self.rate_hz;
        let from = self.engine.beats();
        // each event belongs to the frame nearest to it
        let until = from + (BLOCK as f64 - 0.5) * beats_a_frame;
        let frame = |at: f64| libm::round((at - from) / beats_a_frame).max(0.0) as usize;
        if self.plays {
            self.plan_score(until, &frame);
        }
        if self.arpeggiates() {
            let p = self.engine.arpeggio();
            while let Some(act) = self.arpeggiator.next(until, &p) {
                match act {
                    Act::Down(struck, at) => self.sound(struck, at, frame(at)),
                    Act::Up(key) => self.end(key),
                }
            }
        }
        self.drums.process(&mut self.beat);
    }

    fn plan_score(&mut self, until: f64, frame: &impl Fn(f64) -> usize) {
        loop {
            let next = self.score.notes.get(self.next_note).copied();
            let next = next.map(|note| (note, self.round_beats + note.at_beats));
            let limit = match next {
                Some((_, at)) if at < until => at + 1e-9,
                _ => until,
            };
            // what ends goes first, so that the same key can be struck again
            if let Some(ended) = self.held[..self.holds]
                .iter()
                .position(|h| h.end_beats < limit)
            {
                let key = self.held[ended].key;
                self.holds -= 1;
                self.held[ended] = self.held[self.holds];
                self.score_up(key);
                continue;
            }
            if let Some((note, at)) = next
                && at < until
            {
                self.next_note += 1;
                let key = note.key as u8;
                let end_beats = self.round_beats + note.end_beats;
                self.hold(Held { key, end_beats });
                let velocity = note.velocity as u8;
                self.key_down(Struck { key, velocity }, at, frame(at));
                continue;
            }
            let round_ends = self.round_beats + self.score.length_beats;
            if round_ends < until && self.looped && !self.score.notes.is_empty() {
                (self.round_beats, self.next_note) = (round_ends, 0);
                continue;
            }
            if !self.looped && round_ends < until && self.holds == 0 {
                (self.plays, self.left_beats) = (false, 0.0);
                return;
            }
            break;
        }
        let latency = self.engine.latency_frames();
        let of_voices = latency - self.engine.effect_latency_frames();
        loop {
            let stroke = self.score.strokes.get(self.next_stroke).copied();
            match stroke {
                Some(stroke) if self.pattern_beats + stroke.at_beats < until => {
                    self.next_stroke += 1;
                    let at = frame(self.pattern_beats + stroke.at_beats);
                    self.drums
                        .strike(stroke.drum as usize, at + latency, stroke.gain);
                    if stroke.drum == Drum::Kick as u32 {
                        // effects that listen to it stand behind the voices
                        self.engine.kick(at + of_voices, stroke.gain);
                    }
                }
                None if self.pattern_beats + PATTERN_BEATS < until
                    && !self.score.strokes.is_empty() =>
                {
                    (self.pattern_beats, self.next_stroke) =
                        (self.pattern_beats + PATTERN_BEATS, 0);
                }
                _ => break,
            }
        }
        self.turn_wheels();
    }

    fn hold(&mut self, held: Held) {
        // a key struck again ends with its new note
        if let Some(same) = self.held[..self.holds]
            .iter_mut()
            .find(|h| h.key == held.key)
        {
            *same = held;
            return;
        }
        if self.holds == MOST_HELD {
            self.score_up(self.held[0].key);
            self.holds -= 1;
            self.held[0] = self.held[self.holds];
        }
        self.held[self.holds] = held;
        self.holds += 1;
    }

    /// Moves the wheels to where the score has them.
    fn turn_wheels(&mut self) {
        let within = self.engine.beats() - self.round_beats;
        if !self.score.wheel.is_empty() {
            let place = place_at(&self.score.wheel, within);
            if place != self.wheel {
                self.wheel = place;
                self.engine.control(Control::Wheel, place as f32);
            }
        }
        if !self.score.bend.is_empty() {
            let place = place_at(&self.score.bend, within);
            if place != self.bend {
                self.bend = place;
                self.engine.pitch_bend(place);
            }
        }
    }
}

fn place_at(turns: &[ScoreTurn], at_beats: f64) -> f64 {
    let after = turns.partition_point(|t| t.at_beats <= at_beats);
    let before = after.checked_sub(1).and_then(|at| turns.get(at));
    match (before, turns.get(after)) {
        (Some(a), Some(b)) => {
            let share = (at_beats - a.at_beats) / (b.at_beats - a.at_beats).max(1e-9);
            a.place + share * (b.place - a.place)
        }
        (Some(only), None) | (None, Some(only)) => only.place,
        (None, None) => 0.0,
    }
}
