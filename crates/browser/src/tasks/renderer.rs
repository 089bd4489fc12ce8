//! The rendering worker: a picture's sound in slices, which the other worker draws.

use zolvik_engine::program::prepare_with;
use zolvik_lab::chance::Trial;
use zolvik_lab::picture::pace::{PLANS, Pace};
use zolvik_lab::piece::{Taken, piece};
use zolvik_lab::render::{Phrased, Run};
use zolvik_lab::spectrum::Span;
use zolvik_lab::take::Take;
use zolvik_lab::{Detail, Note};
use zolvik_patch::document::SourceId;
use zolvik_patch::{Patch, json};
use zolvik_play::Player;
use zolvik_waves::Clips;

use crate::protocol::{Answer, PictureOf, Refusal};
use crate::view::phrase_window_s;

/// How long a slice is to take, in milliseconds.
const SLICE_MS: f64 = 5.0;
/// Blocks of the first slice: the first columns of the shortest windows.
const FIRST_BLOCKS: usize = 40;
/// Most blocks of a slice.
const MOST_BLOCKS: usize = 4_000;
/// Takes that are kept: of the exact picture, and of those in a hurry.
const TAKES: usize = 3;

/// A picture's render, and what is kept for the next.
#[derive(Default)]
pub(super) struct Renderer {
    run: Option<Under>,
    /// One for each rate there is.
    players: Vec<Player>,
    pace: Pace,
    /// Voices of notes rendered lately, the newest last.
    takes: Vec<Take>,
    /// What was rendered last.
    patch: Option<Patch>,
    trial: Option<(Trial, Vec<SourceId>)>,
}

/// A render under way.
struct Under {
    run: Run,
    taken: Taken,
    plan: usize,
    blocks: usize,
    spent_ms: f64,
}

impl Renderer {
    /// Begins a picture, in place of the one before.
    pub(super) fn begin(&mut self, of: PictureOf, clips: &dyn Clips) -> Result<Answer, Refusal> {
        self.stop();
        self.trial = None;
        let patch = json::read(&of.text)?;
        let length_s = match of.phrase {
            true => phrase_window_s(&patch),
            false => patch.audition.window_s,
        };
        let prepare = |which: usize| {
            let mut prepared = prepare_with(&PLANS[which].of(&patch), &of.listening, clips);
            prepared.tap = of.effect;
            if of.voice {
                prepared.program.without_effects();
            }
            prepared
        };
        let note = |which: usize| Note::auditioned(&patch, PLANS[which].rate_hz);
        let chosen = match of.detail {
            Detail::Coarse => self.pace.choose(length_s),
            Detail::Fine => 0,
        };
        // where only effects were changed the voices of the exact picture may be there
        let exact = chosen != 0 && !of.phrase && self.has_voices_of(&patch);
        let exact = exact.then(|| prepare(0)).filter(|exact| {
            let fits = self.takes.iter().any(|take| take.fits(exact, &note(0)));
            fits && self.pace.is_in_time_with_a_take(length_s)
        });
        let (which, prepared) = match exact {
            Some(prepared) => (0, prepared),
            None => (chosen, prepare(chosen)),
        };
        let plan = PLANS[which];
        let known = self
            .players
            .iter()
            .position(|p| p.rate_hz() == plan.rate_hz);
        let player = known.map(|at| self.players.swap_remove(at));
        let player = player.unwrap_or_else(|| Player::new(plan.rate_hz));
        let run = match of.phrase {
            true => {
                let how = Phrased {
                    length_s,
                    rate_hz: plan.rate_hz,
                    with_beat: false,
                };
                Run::phrase(player, &prepared, &patch, &how)
            }
            false => {
                let note = note(which);
                let fitting = self.takes.iter().position(|t| t.fits(&prepared, &note));
                let take = fitting.map(|at| self.takes.remove(at));
                Run::kept_note(player, &prepared, &note, take)
            }
        };
        self.run = Some(Under {
            run,
            taken: Taken::default(),
            plan: which,
            blocks: FIRST_BLOCKS,
            spent_ms: 0.0,
        });
        self.patch = Some(patch);
        Ok(Answer::Renders {
            rate_hz: plan.rate_hz,
            length_s,
        })
    }

    /// The next slice, told how long the one before took, and had to wait. Gives the piece it made.
    pub(super) fn go(&mut self, spent_ms: f64, waited_ms: f64) -> (Answer, Vec<u8>) {
        let Some(under) = &mut self.run else {
            let why = "nothing is rendered".into();
            return (Answer::Refused { why }, vec![]);
        };
        // a picture is late however its time goes by
        under.spent_ms += spent_ms + waited_ms;
        if spent_ms > 0.0 {
            let wanted = under.blocks as f64 * SLICE_MS / spent_ms;
            under.blocks =
                (wanted as usize).clamp(FIRST_BLOCKS, (2 * under.blocks).min(MOST_BLOCKS));
        }
        let more = under.run.go(under.blocks);
        let piece = piece(&under.run, &mut under.taken);
        let effects = match more {
            true => vec![],
            false => self.stop(),
        };
        (Answer::Rendered { more, effects }, piece)
    }

    /// Whether what was rendered last differs from a patch in its effects and its level alone, or not at all.
    fn has_voices_of(&mut self, patch: &Patch) -> bool {
        let Some(last) = &mut self.patch else {
            return false;
        };
        // it makes room for this one anyway
        last.finish = patch.finish.clone();
        last.voice.trim_db = patch.voice.trim_db;
        last == patch
    }

    /// Ends the render there is, and learns from it.
    fn stop(&mut self) -> Vec<crate::explain::EffectLevelView> {
        let Some(under) = self.run.take() else {
            return vec![];
        };
        let seconds = under.run.sound().left.len() as f64 / under.run.sound().rate_hz;
        match under.run.plays_a_take() {
            true => self.pace.learn_with_a_take(seconds, under.spent_ms),
            false => self.pace.learn(under.plan, seconds, under.spent_ms),
        }
        let (sound, player, take) = under.run.end();
        self.players.push(player);
        self.takes.extend(take);
        let surplus = self.takes.len().saturating_sub(TAKES);
        self.takes.drain(..surplus);
        sound.effects.iter().map(Into::into).collect()
    }

    /// Tries the next seed of what was rendered last: once the hand rests. With the last one come the bands of the sources that chance touches, the
    /// lowest places of each and then its highest.
    pub(super) fn chance(&mut self, exponent: f64) -> (Answer, Vec<f32>) {
        let begun = self.trial.take().or_else(|| {
            let patch = self.patch.as_ref()?;
            let grid = Detail::Fine.grid(patch.audition.window_s, exponent, 1.0, Span::default());
            let times_s: Vec<f64> = (0..grid.columns).map(|c| grid.centre_s(c)).collect();
            let sources = patch.movement.sources.iter().map(|s| s.id).collect();
            Some((Trial::new(patch, &times_s)?, sources))
        });
        let answer = |more, chancy| Answer::Chance { more, chancy };
        let Some((mut trial, sources)) = begun else {
            return (answer(false, vec![]), vec![]);
        };
        if trial.go() {
            self.trial = Some((trial, sources));
            return (answer(true, vec![]), vec![]);
        }
        let (mut chancy, mut bands) = (vec![], vec![]);
        for (source, band) in sources.into_iter().zip(trial.bands()) {
            if let Some((low, high)) = band {
                chancy.push(source);
                bands.extend(low);
                bands.extend(high);
            }
        }
        (answer(false, chancy), bands)
    }
}
