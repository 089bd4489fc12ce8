//! A patch compiled for the engine: flat, of fixed size, with every index checked, so that it can cross
//! threads as bytes and be taken up without allocating.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::catalogue::{db_gain, level_gain};
use zolvik_patch::document::{MAX_UNITS, Patch, Send, UnitId};
use zolvik_patch::graph::{groups, is_feedback};
use zolvik_patch::hearing::{Listening, passes, solo_straight};

/// Most phase routes: every unit into every unit.
pub const MAX_PHASE_ROUTES: usize = MAX_UNITS * MAX_UNITS;

/// A compiled patch. Units stand in the order they are computed.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub struct Program {
    pub(crate) units: [UnitProgram; MAX_UNITS],
    pub(crate) routes: [RouteProgram; MAX_PHASE_ROUTES],
    pub(crate) outs: [OutProgram; MAX_UNITS],
    pub(crate) unit_count: u32,
    pub(crate) route_count: u32,
    pub(crate) out_count: u32,
    pub(crate) polyphony: u32,
    pub(crate) trim: f32,
    pub(crate) reserved: u32,
}

/// One unit of a program.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct UnitProgram {
    /// Multiple of the key's frequency, detune included.
    pub(crate) multiple: f64,
    pub(crate) offset_hz: f64,
    pub(crate) envelope: EnvelopeProgram,
    /// The unit's number in the patch.
    pub(crate) id: u32,
    /// Its routes in: a range of [`Program::routes`].
    pub(crate) first_route: u32,
    pub(crate) routes: u32,
    /// Units computed together from here on; more than one, or a loop on itself, go sample by sample.
    pub(crate) group_size: u32,
    pub(crate) feedback: u32,
    /// 1, or 0 when off or muted.
    pub(crate) gate: f32,
    pub(crate) velocity: f32,
    pub(crate) reserved: u32,
}

/// The numbers of an envelope, as the document has them.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct EnvelopeProgram {
    pub(crate) attack_s: f64,
    pub(crate) attack_curve: f64,
    pub(crate) decay_s: f64,
    pub(crate) decay_curve: f64,
    pub(crate) sustain: f64,
    pub(crate) release_s: f64,
    pub(crate) release_curve: f64,
}

/// A route into a unit's phase.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct RouteProgram {
    /// Position of the source.
    pub(crate) from: u32,
    /// 1 where the source is computed later or is the unit itself: its last two samples are averaged.
    pub(crate) back: u32,
    /// Depth in turns.
    pub(crate) turns: f32,
}

/// A route to the output.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct OutProgram {
    pub(crate) from: u32,
    pub(crate) left: f32,
    pub(crate) right: f32,
}

/// Why bytes were not taken as a program.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum ProgramError {
    /// The length is not that of a program of this version.
    #[error("a program has {expected} bytes, these are {actual}")]
    Length {
        /// Bytes a program has.
        expected: usize,
        /// Bytes given.
        actual: usize,
    },
    /// An index points outside.
    #[error("the program points outside itself")]
    Unsound,
}

/// Compiles a valid patch. What is off or muted stays in the program at depth zero, so that switching it
/// back is a smooth change of a value.
pub fn compile(patch: &Patch, listening: &Listening) -> Program {
    let mut program = Program::zeroed();
    let groups = groups(patch);
    let order: Vec<UnitId> = groups.concat();
    for group in &groups {
        for (i, id) in group.iter().enumerate() {
            let at = program.unit_count as usize;
            let Some(unit) = unit_program(patch, listening, *id) else {
                continue;
            };
            program.units[at] = unit;
            program.units[at].group_size = if i == 0 { group.len() as u32 } else { 0 };
            program.units[at].feedback = u32::from(is_feedback(patch, group));
            add_routes(&mut program, patch, &order, at);
            add_out(&mut program, patch, listening, at);
            program.unit_count += 1;
        }
    }
    program.polyphony = patch.voice.polyphony.into();
    program.trim = db_gain(patch.voice.trim_db) as f32;
    program
}

fn unit_program(patch: &Patch, listening: &Listening, id: UnitId) -> Option<UnitProgram> {
    let unit = patch.unit(id)?;
    let (tuning, env) = (unit.tuning(), &unit.envelope);
    Some(UnitProgram {
        multiple: tuning.ratio * libm::exp2(tuning.detune_cents / 1200.0),
        offset_hz: tuning.offset_hz,
        envelope: EnvelopeProgram {
            attack_s: env.attack_s,
            attack_curve: env.attack_curve,
            decay_s: env.decay_s,
            decay_curve: env.decay_curve,
            sustain: env.sustain,
            release_s: env.release_s,
            release_curve: env.release_curve,
        },
        id: id.0.into(),
        gate: if unit.on && !listening.muted.contains(&id) {
            1.0
        } else {
            0.0
        },
        velocity: unit.velocity as f32,
        ..UnitProgram::zeroed()
    })
}

fn add_routes(program: &mut Program, patch: &Patch, order: &[UnitId], at: usize) {
    const TURNS_PER_RADIAN: f64 = 0.5 / core::f64::consts::PI;
    program.units[at].first_route = program.route_count;
    for route in &patch.routes {
        let Send::Phase { to, index_rad } = route.send else {
            continue;
        };
        if to != order[at] {
            continue;
        }
        let Some(from) = order.iter().position(|id| *id == route.from) else {
            continue;
        };
        program.routes[program.route_count as usize] = RouteProgram {
            from: from as u32,
            back: u32::from(from >= at),
            turns: if route.on {
                (index_rad * TURNS_PER_RADIAN) as f32
            } else {
                0.0
            },
        };
        program.route_count += 1;
        program.units[at].routes += 1;
    }
}

/// Equal power: the squares of both gains add up to one.
fn add_out(program: &mut Program, patch: &Patch, listening: &Listening, at: usize) {
    let id = UnitId(program.units[at].id as u16);
    let own = patch.sends(id).find(|r| r.send.target().is_none());
    let straight = solo_straight(patch, listening, id);
    let (gain, pan) = match own.map(|r| (&r.send, passes(r))) {
        _ if straight => (db_gain(-12.0), 0.0),
        Some((Send::Output { level_db, pan }, true)) => (level_gain(*level_db), *pan),
        Some(_) => (0.0, 0.0),
        None => return,
    };
    let heard = listening.soloed.is_empty() || listening.soloed.contains(&id);
    let gain = if heard { gain } else { 0.0 };
    let angle = (pan + 1.0) * core::f64::consts::FRAC_PI_4;
    program.outs[program.out_count as usize] = OutProgram {
        from: at as u32,
        left: (gain * libm::cos(angle)) as f32,
        right: (gain * libm::sin(angle)) as f32,
    };
    program.out_count += 1;
}

impl Program {
    /// The program as bytes, for another thread's engine of the same version.
    pub fn bytes(&self) -> &[u8] {
        bytemuck::bytes_of(self)
    }

    /// Reads what [`Program::bytes`] gave.
    ///
    /// # Errors
    /// If length or indices do not fit. Never panics.
    pub fn from_bytes(bytes: &[u8]) -> Result<Program, ProgramError> {
        let expected = size_of::<Program>();
        let program: Program =
            bytemuck::try_pod_read_unaligned(bytes).map_err(|_| ProgramError::Length {
                expected,
                actual: bytes.len(),
            })?;
        if program.is_sound() {
            Ok(program)
        } else {
            Err(ProgramError::Unsound)
        }
    }

    /// Whether every index lies inside, so that the audio path need not ask again.
    fn is_sound(&self) -> bool {
        let units = self.unit_count as usize;
        if units > MAX_UNITS
            || self.route_count as usize > MAX_PHASE_ROUTES
            || self.out_count as usize > MAX_UNITS
        {
            return false;
        }
        let unit_ok = |(at, u): (usize, &UnitProgram)| {
            u64::from(u.first_route) + u64::from(u.routes) <= u64::from(self.route_count)
                && (u.group_size as usize) <= units - at
        };
        self.units[..units].iter().enumerate().all(unit_ok)
            && self.routes[..self.route_count as usize]
                .iter()
                .all(|r| (r.from as usize) < units)
            && self.outs[..self.out_count as usize]
                .iter()
                .all(|o| (o.from as usize) < units)
    }

    /// Whether two programs differ only in values, so that a sounding note can glide from one to the other.
    pub(crate) fn same_shape(&self, other: &Program) -> bool {
        let counts = |p: &Program| (p.unit_count, p.route_count, p.out_count);
        counts(self) == counts(other)
            && self.units.iter().zip(&other.units).all(|(a, b)| {
                (a.id, a.first_route, a.routes, a.group_size, a.feedback)
                    == (b.id, b.first_route, b.routes, b.group_size, b.feedback)
            })
            && self
                .routes
                .iter()
                .zip(&other.routes)
                .all(|(a, b)| (a.from, a.back) == (b.from, b.back))
            && self
                .outs
                .iter()
                .zip(&other.outs)
                .all(|(a, b)| a.from == b.from)
    }

    /// Longest time a note sounds after its release, in seconds.
    pub fn tail_s(&self) -> f64 {
        let outs = &self.outs[..self.out_count as usize];
        outs.iter()
            .map(|o| self.units[o.from as usize].envelope.release_s)
            .fold(0.0, f64::max)
    }

    /// Number of units.
    pub fn unit_count(&self) -> usize {
        self.unit_count as usize
    }

    /// The unit numbers in the order of computation.
    pub fn unit_ids(&self) -> impl Iterator<Item = UnitId> + '_ {
        self.units[..self.unit_count()]
            .iter()
            .map(|u| UnitId(u.id as u16))
    }
}
