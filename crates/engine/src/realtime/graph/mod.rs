//! One program with its state in all lanes: taking programs up, and following changes of values. Notes are in [`crate::realtime::voices::notes`],
//! what is computed in [`crate::realtime::graph::block`], frequencies in `tuning`.

mod block;
mod following;
pub(crate) mod late;
pub(crate) mod stereo;
mod within;

mod tuning;

use wide::f32x8;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Harmonics, MAX_UNITS, Operator, Send};

use crate::program::movement::VOICE_PITCHES;
use crate::program::{Program, kind};
use crate::realtime::graph::late::{Late, Moved};
use crate::realtime::graph::stereo::{Right, Sides};
use crate::realtime::graph::within::Within;
use crate::realtime::input::controls::Controls;
use crate::realtime::modulation::envelope::Envelopes;
use crate::realtime::modulation::note_envelopes::{NoteEnvelopes, Onsets};
use crate::realtime::modulation::smooth::{Smooth, share};
use crate::realtime::modulation::values::{Sources, Values};
use crate::realtime::modulation::{Modulation, Moment};
use crate::realtime::nodes::operator::advance_partials;
use crate::realtime::nodes::{Node, Shared};
use crate::realtime::output::decimate::{Decimator, Wait};
use crate::realtime::sine::Lanes;
use crate::realtime::tables::bank_cache::{BankCache, Lines, Places};
use crate::realtime::voices::lanes::Lane;
use crate::realtime::voices::ringing::Ringing;
use crate::realtime::{Block, SILENT, nodes};
use crate::sizes::{BLOCK, BUSES, LANES, MAX_SETS};

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(in crate::realtime) const COLOUR_DB: usize = position(document::Noise::COLOUR_DB);
}

/// What every unit keeps in one set of lanes, whatever its kind.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Strip {
    pub(crate) envelopes: Envelopes,
    /// Velocity, the key's level and the fade near half the rate.
    pub(crate) level: [f32; LANES],
    /// Envelope times level at the end of the block.
    pub(crate) amplitude: Lanes,
    /// Where its copies stand in space, where they do not stand as the voice's.
    pub(crate) sides: Sides,
    /// What moved its frequency in the last frames.
    pub(crate) moved: Moved,
    /// The key's pitch in octaves above C4.
    pub(crate) key_oct: [f32; LANES],
    /// The key's frequency in hertz.
    pub(crate) key_hz: [f64; LANES],
    /// Factor of its pitch that wanders.
    pub(crate) drift: [f64; LANES],
    /// Both with fewer digits, for what is moved with every block.
    pub(crate) key_hz_lanes: Lanes,
    pub(crate) drift_lanes: Lanes,
}

impl Strip {
    const IDLE: Strip = Strip {
        envelopes: Envelopes::IDLE,
        level: [0.0; LANES],
        amplitude: f32x8::ZERO,
        sides: Sides::MIDDLE,
        moved: Moved::NONE,
        key_oct: [0.0; LANES],
        key_hz: [0.0; LANES],
        drift: [1.0; LANES],
        key_hz_lanes: f32x8::ZERO,
        drift_lanes: f32x8::ONE,
    };
}

/// Blocks between two looks at drifting pitches: 2.7 ms at 48 kHz.
const DRIFT_BLOCKS: u32 = 8;
/// Blocks between two looks at the partials of a wave that changes.
const LOOK_BLOCKS: u32 = 8;

/// Tuning of a unit on its way to the program's.
#[derive(Debug, Clone, Copy, Default)]
pub(in crate::realtime) struct Tuning {
    pub(in crate::realtime) multiple: f64,
    pub(in crate::realtime) offset_hz: f64,
}

/// A program and its state.
#[derive(Debug, Clone)]
pub(crate) struct Graph {
    pub(crate) program: Program,
    pub(crate) values: Values,
    pub(crate) strips: Box<[[Strip; MAX_UNITS]]>,
    /// What units keep that differs from kind to kind: set by set.
    pub(crate) nodes: Box<[[Node; MAX_UNITS]]>,
    /// The right channel of units that work in stereo.
    pub(crate) right: Right,
    /// How loud each lane was and is.
    pub(crate) ringing: Ringing,
    /// Notes that begin within a block.
    pub(crate) within: Within,
    /// What all lanes of a unit share.
    pub(crate) shared: Box<[Shared]>,
    pub(crate) lines: Lines,
    /// Sources of movement, and what the player does with wheels and pedals.
    pub(in crate::realtime) modulation: Modulation,
    /// Envelopes that each note has for itself.
    pub(in crate::realtime) own: NoteEnvelopes,
    pub(in crate::realtime) begins: Onsets,
    pub(in crate::realtime) controls: Controls,
    /// Beats at the end of the block at hand.
    beats: f64,
    /// What units in loops put out last.
    pub(crate) late: Late,
    /// Frames since the beginning, and blocks until drifting pitches are looked at again.
    pub(in crate::realtime) time: u64,
    drift_wait: u32,
    /// Whether every pitch is to be looked at again.
    retuned: bool,
    pub(in crate::realtime) tunings: [Tuning; MAX_UNITS],
    pub(crate) gates: [Smooth; MAX_UNITS],
    pub(crate) gains: [[Smooth; 2]; MAX_UNITS],
    pub(crate) banks: Places,
    /// What the units put out in the block at hand; kept to spare clearing it for every block.
    pub(crate) signals: [Block; MAX_UNITS],
    pub(crate) decimators: [[Decimator; 2]; BUSES],
    /// What makes every quality as late as the others, where it changes by itself.
    pub(crate) waits: [[Wait; 2]; BUSES],
    /// Sample rate that leaves, and the one it is computed at.
    pub(in crate::realtime) outer_rate_hz: f64,
    pub(in crate::realtime) rate_hz: f64,
    pub(crate) block_s: f64,
    pub(in crate::realtime) follow: Follow,
}

/// What a node may look at: borrows all of a graph but its nodes, strips, lines and signals.
macro_rules! context {
    ($graph:ident, $set:expr, $u:expr, $bank_cache:expr) => {{
        let unit = &$graph.program.units[$u];
        $crate::realtime::nodes::Context {
            program: &$graph.program,
            unit,
            own: $graph.values.of_unit(unit.first_param),
            values: &$graph.values,
            set: $set,
            shared: &$graph.shared[$u],
            gate: &$graph.gates[$u],
            bank: $bank_cache.get($graph.banks[$u]),
            recording: match unit.kind {
                $crate::program::kind::SAMPLE => $bank_cache.recording($graph.banks[$u]),
                _ => None,
            },
            rate_hz: $graph.rate_hz,
        }
    }};
}
pub(in crate::realtime) use context;

/// What movement is computed with: borrows all of a graph but its modulation and strips.
macro_rules! moment {
    ($graph:ident) => {
        Moment {
            program: &$graph.program,
            values: &$graph.values,
            controls: &$graph.controls,
            beats: $graph.beats,
            block_s: $graph.block_s,
        }
    };
}

/// Share of the rest that what is no parameter by itself covers in one block.
#[derive(Debug, Clone, Copy)]
pub(in crate::realtime) struct Follow {
    tuning: f32,
    pub(in crate::realtime) level: f32,
    partials: f32,
}

impl Follow {
    fn new(block_s: f64) -> Self {
        let of = |id| share(param(id).smoothing_s, block_s);
        Follow {
            tuning: of(Operator::RATIO),
            level: of(Send::LEVEL_DB),
            partials: share(0.5 * param(Harmonics::TILT_DB).smoothing_s, block_s),
        }
    }
}

impl Graph {
    pub(crate) fn new(program: Program, rate_hz: f64) -> Self {
        let block_s = BLOCK as f64 / rate_hz;
        let mut graph = Graph {
            program,
            values: Values::new(),
            modulation: Modulation::new(),
            own: NoteEnvelopes::new(MAX_SETS, MAX_UNITS),
            begins: Onsets::default(),
            controls: Controls::default(),
            beats: 0.0,
            strips: vec![[Strip::IDLE; MAX_UNITS]; MAX_SETS].into(),
            nodes: vec![[Node::IDLE; MAX_UNITS]; MAX_SETS].into(),
            right: Right::new(rate_hz),
            ringing: Ringing::new(),
            within: Within::new(),
            shared: vec![Shared::new(); MAX_UNITS].into(),
            lines: Lines::default(),
            late: Late::new(rate_hz),
            time: 0,
            drift_wait: 0,
            retuned: false,
            tunings: [Tuning::default(); MAX_UNITS],
            gates: [Smooth::default(); MAX_UNITS],
            gains: [[Smooth::default(); 2]; MAX_UNITS],
            banks: [None; MAX_UNITS],
            signals: [SILENT; MAX_UNITS],
            decimators: std::array::from_fn(|_| [Decimator::new(), Decimator::new()]),
            waits: [const { [Wait::EMPTY; 2] }; BUSES],
            outer_rate_hz: rate_hz,
            rate_hz,
            block_s,
            follow: Follow::new(block_s),
        };
        graph.jump();
        graph
    }

    /// As it was made, in the same memory. What units keep is made anew as a program is taken up.
    pub(crate) fn begin_anew(&mut self) {
        self.program = bytemuck::Zeroable::zeroed();
        self.rate_hz = self.outer_rate_hz;
        self.block_s = BLOCK as f64 / self.rate_hz;
        self.follow = Follow::new(self.block_s);
        self.values = Values::new();
        self.modulation = Modulation::new();
        self.begins = Onsets::default();
        self.controls = Controls::default();
        self.beats = 0.0;
        self.right.late.clear(self.rate_hz);
        self.ringing = Ringing::new();
        self.within.clear();
        self.shared.fill(Shared::new());
        self.lines = Lines::default();
        self.late.clear(self.rate_hz);
        (self.time, self.drift_wait, self.retuned) = (0, 0, false);
        self.tunings = [Tuning::default(); MAX_UNITS];
        self.gates = [Smooth::default(); MAX_UNITS];
        self.gains = [[Smooth::default(); 2]; MAX_UNITS];
        self.banks = [None; MAX_UNITS];
        let decimators = self.decimators.as_flattened_mut();
        decimators.iter_mut().for_each(Decimator::clear);
        self.waits = [const { [Wait::EMPTY; 2] }; BUSES];
        self.jump();
    }

    /// Finds the banks again after the bank cache has changed.
    pub(crate) fn find_banks(&mut self, bank_cache: &BankCache) {
        self.banks = bank_cache.places(&self.program);
    }

    /// Sets every smoothed value where the program wants it.
    fn jump(&mut self) {
        self.values.jump(&self.program, self.block_s);
        self.set_target(Smooth::jump);
        for (tuning, unit) in self.tunings.iter_mut().zip(&self.program.units) {
            *tuning = Tuning {
                multiple: unit.multiple,
                offset_hz: unit.offset_hz,
            };
        }
    }

    fn set_target(&mut self, set: impl Fn(&mut Smooth, f32)) {
        let p = &self.program;
        for (gate, unit) in self.gates.iter_mut().zip(&p.units) {
            set(gate, unit.gate);
        }
        for (gain, out) in self.gains.iter_mut().zip(&p.outs) {
            set(&mut gain[0], out.left);
            set(&mut gain[1], out.right);
        }
    }

    /// The level of everything.
    pub(crate) fn trim(&self) -> &Smooth {
        self.values.at(self.program.trim as usize)
    }

    /// What a unit puts out in a lane at the end of the block, before its routes: 0 to 1.
    pub(crate) fn amplitude(&self, u: usize, lane: usize) -> f32 {
        self.strips[lane / LANES][u].amplitude.as_array()[lane % LANES]
    }

    /// Moves smoothed values on by one block. Call once a block, before [`Graph::block`].
    pub(crate) fn advance(&mut self, lanes: &[Lane], bank_cache: &BankCache, beats: f64) {
        let (units, outs) = (self.program.unit_count(), self.program.out_count);
        let follow = self.follow;
        self.gates[..units]
            .iter_mut()
            .for_each(|s| s.advance(follow.level));
        self.gains[..outs as usize]
            .iter_mut()
            .flatten()
            .for_each(|s| s.advance(follow.level));
        let was_still: [bool; MAX_UNITS] = std::array::from_fn(|u| self.values.is_still(u));
        self.values.advance(&self.program);
        self.beats = beats;
        if self.program.movement.source_count > 0 {
            self.move_all(lanes);
        }
        self.time += BLOCK as u64;
        for (u, was_still) in was_still.into_iter().enumerate().take(units) {
            self.advance_tuning(u, lanes, bank_cache);
            match self.program.units[u].kind {
                kind::NOISE => {
                    let own = self.values.of_unit(self.program.units[u].first_param);
                    let colour_db = own[at::COLOUR_DB].next;
                    self.shared[u].colour.set_target(colour_db);
                }
                kind::OPERATOR => self.advance_operator(u, was_still, bank_cache),
                _ => {}
            }
        }
        if std::mem::take(&mut self.retuned) {
            (0..units).for_each(|u| self.retune(u, lanes, bank_cache));
        }
        if self.program.voice.drift_cents > 0.0 {
            if self.drift_wait == 0 {
                self.drift_wait = DRIFT_BLOCKS * self.program.oversampling.max(1);
                (0..units).for_each(|u| self.retune(u, lanes, bank_cache));
            }
            self.drift_wait -= 1;
        }
    }

    /// Moves what all notes share, and what is moved for all of them alike.
    fn move_all(&mut self, lanes: &[Lane]) {
        let strips = &self.strips;
        let moment = moment!(self);
        self.modulation
            .advance_shared(&moment, lanes, |set, u| strips[set][u].amplitude);
        self.values
            .move_all(&self.program, self.modulation.motions());
        if self.program.movement.moves_voice != 0 {
            let first = self.program.movement.first_voice as usize + VOICE_PITCHES;
            let [drift, detune, spread, blend, glide_s] =
                std::array::from_fn(|i| self.values.at(first + i).next);
            let voice = &mut self.program.voice;
            (voice.drift_cents, voice.detune_cents) = (drift, detune);
            (voice.spread, voice.blend) = (spread, blend);
            voice.glide_s = glide_s.into();
        }
    }

    /// How far links moved what all notes share in the block at hand.
    pub(in crate::realtime) fn common_motions(&self) -> &[f32] {
        &self.modulation.common()[..self.program.movement.links().len()]
    }

    /// Moves the sources of a set of lanes, before its block.
    pub(in crate::realtime) fn move_set(&mut self, set: usize) {
        let movement = &self.program.movement;
        if movement.source_count == 0 {
            return;
        }
        let strips = &self.strips;
        let moment = moment!(self);
        self.modulation
            .advance(&moment, set, |set, u| strips[set][u].amplitude);
        let range = (movement.first_move, movement.moves);
        let from = Sources {
            key_oct: [0.0; LANES],
            envelope: f32x8::ZERO,
            motions: self.modulation.motions(),
        };
        self.values.move_lanes(&self.program, set, range, &from);
    }

    /// Where a source stands in a lane, and how far it has come in.
    pub(crate) fn source_place(&self, source: usize, lane: usize) -> (f32, f32) {
        self.modulation.place_of(&self.program, source, lane)
    }

    fn advance_operator(&mut self, u: usize, was_still: bool, bank_cache: &BankCache) {
        let unit = &self.program.units[u];
        let own = self.values.of_unit(unit.first_param);
        let shared = &mut self.shared[u];
        if !was_still {
            shared.shaped = nodes::cycle::Shaped::wanted(own);
        }
        let every = LOOK_BLOCKS * self.program.oversampling.max(1);
        let begins = advance_partials(
            &mut shared.partials,
            unit,
            own,
            (every, self.follow.partials),
            bank_cache.get(self.banks[u]),
        );
        if begins {
            for set in &mut self.nodes {
                if let Node::Operator(oscillator) = &mut set[u] {
                    oscillator.begin_partials();
                }
            }
        }
    }

    /// What is to be known of a unit before a block of a set of lanes is computed.
    pub(in crate::realtime) fn begin_block(
        &mut self,
        set: usize,
        u: usize,
        bank_cache: &BankCache,
    ) {
        let unit = &self.program.units[u];
        let is_plain = unit.kind == kind::OPERATOR && !self.is_shaped(u);
        if is_plain && unit.moves == 0 && unit.pitch_moved == 0 {
            return;
        }
        if unit.moves > 0 {
            let strip = &self.strips[set][u];
            let from = Sources {
                key_oct: strip.key_oct,
                // the block at hand is advanced a little later: a block late
                envelope: strip.amplitude,
                motions: self.modulation.motions(),
            };
            let range = (unit.first_move, unit.moves);
            self.values.move_lanes(&self.program, set, range, &from);
        }
        if self.program.units[u].pitch_moved != 0 {
            self.tune_moved(set, u, bank_cache);
        }
        if is_plain {
            return;
        }
        let context = context!(self, set, u, bank_cache);
        self.nodes[set][u].begin_block(&context);
        if context.unit.stereo != 0 {
            self.right.nodes[set][u].begin_block(&context);
            self.right.begin_block(&self.program, &self.values, set, u);
        }
    }

    /// Whether an operator is more than its wave in this block.
    pub(in crate::realtime) fn is_shaped(&self, u: usize) -> bool {
        self.shared[u].partials.on || self.shared[u].shaped
    }
}
