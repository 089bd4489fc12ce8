//! The engine: events in, samples out.

use std::sync::Arc;

use bytemuck::Zeroable;
use zolvik_patch::document::{EffectId, Mode, UnitId};
use zolvik_waves::{Bank, Recording};

use crate::program::{ArpeggioProgram, Program};
use crate::realtime::SILENT;
use crate::realtime::graph::Graph;
use crate::realtime::input::channels::Channels;
use crate::realtime::modulation::clock::Clock;
use crate::realtime::nodes::line_frames;
use crate::realtime::output::capture::{CapturedBlock, Capturing};
use crate::realtime::output::decimate::{MAX_OVERSAMPLING, latency_frames, wait_frames};
use crate::realtime::output::rack::{self, EffectMeter, Moment, Rack, Stereo};
use crate::realtime::output::summing::{Sums, add_lanes, sum_of_voices, taken};
use crate::realtime::tables::bank_cache::BankCache;
use crate::realtime::voices::Voices;
use crate::realtime::voices::lanes::{LANE_COUNT, LaneState};
use crate::sizes::{BLOCK, BUSES, LANES};

/// Plays a [`Program`]. Made once per sample rate; nothing allocates after that.
pub struct Engine {
    /// What sounds, and what fades out after a change of the routing.
    pub(in crate::realtime) graphs: Box<[Graph; 2]>,
    pub(in crate::realtime) current: usize,
    /// Blocks the old graph still fades.
    pub(in crate::realtime) fading: usize,
    /// Whether the old graph differs from the new one only in its quality.
    pub(in crate::realtime) alike: bool,
    /// Blocks in which no key needed the quality there is.
    pub(in crate::realtime) calm: u32,
    /// A program that came while another change was fading.
    pub(super) waiting: Box<Program>,
    pub(super) has_waiting: bool,
    pub(in crate::realtime) voices: Voices,
    pub(in crate::realtime) channels: Channels,
    pub(in crate::realtime) bank_cache: BankCache,
    pub(in crate::realtime) clock: Clock,
    pub(in crate::realtime) rack: Rack,
    /// Sums of the block at hand, kept to spare clearing what is not used.
    sums: Box<Sums>,
    ready: Stereo,
    used: usize,
    /// What leaves the voices is kept, or comes from what was; never while one plays.
    pub(in crate::realtime) capturing: Option<Box<Capturing>>,
}

/// Blocks over which a changed routing fades in: 10 ms at 48 kHz.
pub(super) const FADE_BLOCKS: usize = 30;
/// Blocks before that in which one that differs only in its quality fills its filters.
pub(in crate::realtime) const FILL_BLOCKS: usize = 4;

impl Engine {
    /// An engine for a sample rate in hertz, with no patch yet: it plays silence.
    pub fn new(rate_hz: f64) -> Self {
        // made before sound starts
        std::sync::LazyLock::force(&zolvik_waves::kernel::SHORT_KERNEL);
        let graph = Graph::new(Program::zeroed(), rate_hz);
        Engine {
            graphs: Box::new([graph.clone(), graph]),
            current: 0,
            fading: 0,
            alike: false,
            calm: 0,
            waiting: Box::new(Program::zeroed()),
            has_waiting: false,
            voices: Voices::new(rate_hz),
            channels: Channels::NEW,
            bank_cache: BankCache::new(),
            clock: Clock::default(),
            rack: Rack::new(rate_hz),
            sums: Box::new(Sums {
                total: [[SILENT; 2]; BUSES],
                own: [[SILENT; 2]; BUSES],
                fine: [[[0.0; BLOCK * MAX_OVERSAMPLING]; 2]; BUSES],
            }),
            ready: [[0.0; BLOCK]; 2],
            used: BLOCK,
            capturing: None,
        }
    }

    /// Forgets all that was played, and keeps its memory and its cache: what is played next has the bits a new engine would give it. Not for the
    /// audio path.
    pub fn begin_anew(&mut self) {
        let rate_hz = self.graphs[0].outer_rate_hz;
        self.graphs.iter_mut().for_each(Graph::begin_anew);
        self.current = 0;
        (self.fading, self.alike, self.calm) = (0, false, 0);
        self.has_waiting = false;
        self.voices = Voices::new(rate_hz);
        self.channels = Channels::NEW;
        self.clock = Clock::default();
        self.rack = Rack::new(rate_hz);
        self.ready = [[0.0; BLOCK]; 2];
        self.used = BLOCK;
        self.capturing = None;
    }

    /// Puts a bank where programs can read it. To be called before the program is installed, and not from the
    /// audio path: it may free memory.
    pub fn cache_bank(&mut self, bank: Arc<Bank>) {
        let [a, b] = &*self.graphs;
        self.bank_cache
            .put(bank, [&a.program, &b.program, &self.waiting]);
        for graph in self.graphs.iter_mut() {
            graph.find_banks(&self.bank_cache);
        }
    }

    /// Puts a recording where programs can read it, as [`Engine::cache_bank`].
    pub fn cache_recording(&mut self, recording: Arc<Recording>) {
        let [a, b] = &*self.graphs;
        let read = [&a.program, &b.program, &self.waiting];
        self.bank_cache.put_recording(recording, read);
        for graph in self.graphs.iter_mut() {
            graph.find_banks(&self.bank_cache);
        }
    }

    /// Keys of the banks and recordings that are in the cache.
    pub fn shelved(&self) -> impl Iterator<Item = u64> {
        self.bank_cache.keys()
    }

    /// Makes the delay lines a program's combs need. To be called before the program is installed, and not from the audio
    /// path: it may allocate. Combs without a line let their sound pass unchanged.
    pub fn reserve(&mut self, program: &Program) {
        self.rack.reserve(program);
        let rate_hz = self.graphs[self.current].outer_rate_hz;
        let each = line_frames(rate_hz * program.most_oversampling().max(1) as f64);
        let lines = program.lines();
        self.graphs[1 - self.current].lines.reserve(lines, each);
        // the one that sounds has what it needs, and must not lose it; with a quality that follows the keys both take turns
        let silent = self.voices.sounding() == 0;
        let sounds = &mut self.graphs[self.current].lines;
        if program.follows_keys() && (silent || sounds.reaches(each)) {
            sounds.reserve(lines, each);
        }
    }

    /// Lets a kick of the beat be heard by what listens to it, so many frames after the begin of the block that comes next.
    pub fn kick(&mut self, frames: usize, level: f32) {
        self.rack.kick(frames, level);
    }

    /// Lets the sound before and after an effect be looked at.
    pub fn tap(&mut self, effect: Option<EffectId>) {
        self.rack.tap(effect);
    }

    /// The last block before and after the effect that is looked at.
    pub fn tapped(&self) -> &[[[f32; BLOCK]; 2]; 2] {
        self.rack.tapped()
    }

    /// How loud the last block was before and after each effect, in the order of the chains; those beyond the end of `into` are left out.
    pub fn effect_meters(&self, into: &mut [EffectMeter]) {
        self.rack.meters(&self.graphs[self.current].program, into);
    }

    /// How late effects let what leaves be, in frames.
    pub fn effect_latency_frames(&self) -> usize {
        self.rack.latency_frames(&self.graphs[self.current].program)
    }

    /// Where each source of movement stands in the newest note, 0 to 1, and how far it has come in, in the order of the patch; sources
    /// beyond the end of `into` are left out.
    pub fn places(&self, into: &mut [[f32; 2]]) {
        let lane = self.newest_lane().unwrap_or(0);
        let graph = &self.graphs[self.current];
        let count = graph.program.movement.sources().len();
        for (at, into) in into.iter_mut().enumerate().take(count) {
            let (place, fade) = graph.source_place(at, lane);
            *into = [place, fade];
        }
    }

    /// How far each link moves its value in the newest note, in the value's domain, in the order of the patch; links beyond the end of
    /// `into` are left out.
    pub fn motions(&self, into: &mut [f32]) {
        let graph = &self.graphs[self.current];
        let count = graph.program.movement.links().len();
        for (into, motion) in into.iter_mut().zip(&graph.modulation.shown()[..count]) {
            *into = *motion;
        }
    }

    fn newest_lane(&self) -> Option<usize> {
        let lanes = self.voices.lanes.iter().enumerate();
        let sounding = lanes.filter(|(_, v)| v.state != LaneState::Free);
        sounding.max_by_key(|(_, v)| v.age).map(|(lane, _)| lane)
    }

    /// Fills both channels; they must have the same length. Same events and programs at the same block
    /// give the same bits, however the calls are cut.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn process(&mut self, left: &mut [f32], right: &mut [f32]) {
        let mut done = 0;
        while done < left.len().min(right.len()) {
            if self.used == BLOCK {
                self.next_block();
                self.used = 0;
            }
            let count = (BLOCK - self.used).min(left.len() - done);
            for (to, ready) in [&mut *left, &mut *right].into_iter().zip(&self.ready) {
                to[done..done + count].copy_from_slice(&ready[self.used..self.used + count]);
            }
            self.used += count;
            done += count;
        }
    }

    /// How many times the rate the running program is computed at.
    pub fn oversampling(&self) -> usize {
        self.graphs[self.current].program.oversampling()
    }

    /// Musical time in beats, on the grid of blocks, since the engine was made.
    pub fn beats(&self) -> f64 {
        self.clock.beats
    }

    /// Lets musical time go on from a moment, in beats, with the block that comes next.
    pub fn restart(&mut self, beats: f64) {
        self.clock = Clock { block: 0, beats };
    }

    /// Frames that are computed and not yet taken: before the next of them nothing that happens now is heard.
    pub fn ready_frames(&self) -> usize {
        BLOCK - self.used
    }

    /// How much later all it plays leaves, in frames: what its filters on the way down from a higher rate take, and its effects.
    pub fn latency_frames(&self) -> usize {
        let program = &self.graphs[self.current].program;
        let own = match program.follows_keys() {
            true => latency_frames(4),
            false => latency_frames(program.oversampling()),
        };
        own + self.rack.latency_frames(program)
    }

    /// Beats a minute.
    pub fn tempo_bpm(&self) -> f64 {
        self.graphs[self.current].program.tempo_bpm
    }

    /// What it makes of keys that are held.
    pub fn arpeggio(&self) -> ArpeggioProgram {
        self.graphs[self.current].program.arpeggio
    }

    /// Notes that sound now, fading ones included; copies of a note count as one.
    pub fn voices(&self) -> usize {
        self.voices.sounding_notes()
    }

    /// What each unit puts out in the newest note, 0 to 1, before its routes, in the order of
    /// [`Program::unit_ids`]; 0 if nothing sounds. Units beyond the end of `into` are left out.
    pub fn amplitudes(&self, into: &mut [f32]) {
        let newest = self.newest_lane();
        let graph = &self.graphs[self.current];
        for (u, into) in into.iter_mut().enumerate().take(graph.program.unit_count()) {
            *into = newest.map_or(0.0, |lane| graph.amplitude(u, lane));
        }
    }

    /// What one unit puts out, as [`Engine::amplitudes`].
    pub fn unit_amplitude(&self, unit: UnitId) -> f32 {
        let mut all = [0.0; zolvik_patch::document::MAX_UNITS];
        self.amplitudes(&mut all);
        let at = self.graphs[self.current]
            .program
            .unit_ids()
            .position(|id| id == unit);
        at.map_or(0.0, |u| all[u])
    }

    fn next_block(&mut self) {
        if self.next_captured_block() {
            return;
        }
        if self.fading == 0 && self.has_waiting {
            let program = *self.waiting;
            self.install(&program);
        }
        self.follow_keys();
        let graphs = &mut self.graphs;
        let current = self.current;
        let program = &graphs[current].program;
        self.clock
            .advance(program.tempo_bpm, graphs[current].outer_rate_hz);
        let mut ended = [false; LANE_COUNT];
        let retuned = self.voices.advance(program, |lane| ended[lane] = true);
        for (lane, _) in ended.iter().enumerate().filter(|(_, ended)| **ended) {
            graphs.iter_mut().for_each(|graph| graph.silence(lane));
        }
        if retuned {
            for graph in graphs.iter_mut() {
                for u in 0..graph.program.unit_count() {
                    graph.retune(u, &self.voices.lanes, &self.bank_cache);
                }
            }
        }
        let mut ways = self.graph_block(self.current);
        let fades = self.fading > 0;
        if fades {
            let old = self.graph_block(1 - self.current);
            let step = 1.0 / (FADE_BLOCKS * BLOCK) as f32;
            let begun = FADE_BLOCKS.checked_sub(self.fading);
            let step = if begun.is_none() { 0.0 } else { step };
            let mut share = begun.unwrap_or(0) as f32 * BLOCK as f32 * step;
            for frame in 0..BLOCK {
                for (way, old) in ways.iter_mut().zip(&old) {
                    for channel in 0..2 {
                        way[channel][frame] +=
                            (old[channel][frame] - way[channel][frame]) * (1.0 - share);
                    }
                }
                share += step;
            }
            self.fading -= 1;
        }
        let newest = self.newest_lane();
        let graph = &self.graphs[self.current];
        let block = CapturedBlock {
            ways,
            buses: graph.program.buses | if fades { 7 } else { 0 },
            key_hz: newest.map(|lane| self.voices.lanes[lane].hz),
        };
        if let Some(Capturing::Records(capture)) = self.capturing.as_deref_mut() {
            capture.push(block, graph.common_motions());
        }
        self.finish(&block);
        self.free_ended();
    }

    /// What leaves the voices goes through the effects.
    pub(in crate::realtime) fn finish(&mut self, block: &CapturedBlock) {
        let graph = &self.graphs[self.current];
        let moment = Moment {
            program: &graph.program,
            values: &graph.values,
            beats: self.clock.beats,
            key_hz: block.key_hz,
            trim: graph.trim().next,
        };
        self.ready = self.rack.run(&block.ways, taken(block.buses), &moment);
    }

    /// Computes a block of one graph, at as many times the rate as it asks for, and brings it down.
    fn graph_block(&mut self, which: usize) -> [Stereo; BUSES] {
        let plain = self.graphs[self.current].program.rack.plain != 0;
        let graph = &mut self.graphs[which];
        let oversampling = (graph.program.oversampling as usize).clamp(1, MAX_OVERSAMPLING);
        let buses = graph.program.buses;
        let sums = &mut *self.sums;
        for part in 0..oversampling {
            let span = [part, part + 1].map(|p| p as f32 / oversampling as f32);
            let range = part * BLOCK..(part + 1) * BLOCK;
            let beats =
                self.clock
                    .beats_at(graph.program.tempo_bpm, graph.block_s, part, oversampling);
            graph.advance(&self.voices.lanes, &self.bank_cache, beats);
            sum_of_voices(graph, &self.voices, span, &self.bank_cache, sums);
            // where there are effects it comes after them
            let (trim, slope) = (graph.trim().now, graph.trim().slope());
            for bus in taken(buses) {
                for (lanes, fine) in sums.total[bus].iter().zip(&mut sums.fine[bus]) {
                    let fine = &mut fine[range.clone()];
                    for (four, to) in lanes.as_chunks().0.iter().zip(fine.as_chunks_mut().0) {
                        *to = add_lanes(four);
                    }
                    if !plain {
                        continue;
                    }
                    let mut trim = trim;
                    for x in fine {
                        *x *= trim;
                        trim += slope;
                    }
                }
            }
        }
        let mut ways = [[[0.0; BLOCK]; 2]; BUSES];
        for bus in taken(buses) {
            let fine = &mut sums.fine[bus];
            ways[bus] = rack::bring_down(&mut graph.decimators[bus], fine, oversampling);
            if graph.program.follows_keys() {
                let frames = wait_frames(oversampling);
                for (wait, channel) in graph.waits[bus].iter_mut().zip(&mut ways[bus]) {
                    wait.run(channel, frames);
                }
            }
        }
        ways
    }

    fn free_ended(&mut self) {
        if self.fading > 0 {
            return; // what the present program does not hear may still fade in the one before
        }
        let graph = &mut self.graphs[self.current];
        let outer_block_s = graph.block_s * f64::from(graph.program.oversampling.max(1));
        let blocks = |time_s: f64| (time_s / outer_block_s) as u32;
        let quiet = blocks(graph.program.quiet_s());
        // what has ended by itself need not wait for its key, where that can be struck anew
        let by_itself =
            graph.program.voice.mode == Mode::Poly as u32 && graph.program.ends_by_itself();
        let used = self.voices.top * LANES;
        let mut rung_out = false;
        for (lane, voice) in self.voices.lanes[..used].iter_mut().enumerate() {
            let may_end = voice.state == LaneState::Released
                || by_itself && matches!(voice.state, LaneState::Held | LaneState::Pedalled);
            if !may_end || !graph.is_done(lane) {
                continue;
            }
            voice.ringing += 1;
            let most = graph.program.longest_ring_of_s(voice.key, voice.velocity);
            if voice.ringing == 1 && graph.within.waits_in(lane / LANES, lane % LANES) {
                continue; // its last frames are still to be heard
            }
            if most == 0.0 {
                voice.state = LaneState::Free;
                continue;
            }
            match graph.ringing.is_faint(lane / LANES, lane) {
                true => voice.faint += 1,
                false => voice.faint = 0,
            }
            if voice.faint > quiet || voice.ringing > blocks(most) {
                voice.state = LaneState::Fading;
                rung_out = true;
            }
        }
        if rung_out {
            self.voices.wake();
        }
    }
}
