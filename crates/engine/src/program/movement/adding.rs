//! Sources, links and what they move, put into a program.

use bytemuck::Zeroable;
use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{
    Filter, Group, KindName, LinkId, MAX_LINKS, MAX_SOURCES, Operator, Point, RouteId, Sample,
    Send, SourceId, UnitId, UnitKind, VoiceSettings,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::levels::db_gain;
use zolvik_patch::limits::SHORTEST_STRETCH;
use zolvik_patch::movement::amount::row_of;
use zolvik_patch::movement::link::SHORTEST_WAY;
use zolvik_patch::movement::order::{Item, order};
use zolvik_patch::movement::source::source_params;
use zolvik_patch::movement::{Clock, Direction, Link, Scope, SourceKind};
use zolvik_patch::param::{Linked, Owner};

use super::{
    LINKS_FROM, LinkProgram, OnsetProgram, SegmentCurve, ShapeProgram, SourceProgram, VOICE,
    VOICE_PITCHES, onset, pass,
};
use crate::program::envelopes::envelope_program;
use crate::program::layout::{Program, UnitProgram};
use crate::program::params::{
    LINK, Law, MAX_MOVES, MAX_SLOTS, MoveProgram, NO_SLOT, ParamProgram, Source, plain,
};
use crate::program::racking;

/// Where a route's parameters stand, and in the range of which unit they are moved.
pub(crate) struct RoutePlace {
    pub(crate) id: RouteId,
    pub(crate) unit: usize,
    pub(crate) depth: u32,
    pub(crate) pan: u32,
}

/// What a target is a parameter of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Of {
    Unit(usize),
    Voice,
    Source(usize),
    Link(usize),
    All,
}

/// Adds sources, links and moves; to be called when all other parameters are there.
pub(crate) fn add(
    program: &mut Program,
    patch: &Patch,
    listening: &Listening,
    routes: &[RoutePlace],
) {
    add_voice(program, patch);
    let movement = &patch.movement;
    for source in movement.sources.iter().take(MAX_SOURCES) {
        add_source(program, patch, source);
    }
    for link in movement.links.iter().take(MAX_LINKS) {
        let from = position(patch, link.from);
        let works = link.on && listening.lets_move(patch, link);
        let row = row_of(patch, link.to);
        let amount = program.add(ParamProgram {
            value: if works { link.amount as f32 } else { 0.0 },
            low: -1e9,
            high: if works { 1e9 } else { 0.0 },
            ..plain(&row)
        });
        let closed = if works { -1e9 } else { 0.0 };
        let param = &mut program.params[amount as usize];
        (param.low, param.law, param.smoothing_s) = (closed, Law::Plain as u32, 0.01);
        let at = program.movement.link_count as usize;
        program.movement.links[at] = LinkProgram {
            from,
            scale: link.scaled_by.map_or(NO_SLOT, |by| position(patch, by)),
            bend: SegmentCurve::of(link.curve),
            begin: link.begin_share as f32,
            stretch: (1.0 / (link.end_share - link.begin_share).max(SHORTEST_WAY)) as f32,
            amount,
            times: match link.direction {
                Direction::Both => 2.0,
                Direction::Up => 1.0,
                Direction::Down => -1.0,
            },
            plus: if link.direction == Direction::Both {
                -1.0
            } else {
                0.0
            },
            ..LinkProgram::zeroed()
        };
        program.movement.link_count += 1;
    }
    add_onsets(program, patch);
    let items = order(patch).unwrap_or_default();
    for (to, item) in program.movement.order.iter_mut().zip(items) {
        *to = match item {
            Item::Source(at) => at as u32,
            Item::Link(at) => LINKS_FROM + at as u32,
        };
    }
    racking::add(program, patch, listening);
    add_moves(program, patch, routes);
}

fn position(patch: &Patch, id: SourceId) -> u32 {
    let at = patch.movement.sources.iter().position(|s| s.id == id);
    at.map_or(NO_SLOT, |at| at as u32)
}

fn add_voice(program: &mut Program, patch: &Patch) {
    use zolvik_patch::address::Address;
    program.movement.first_voice = program.param_count;
    for id in VOICE {
        let value = Address::patch(id).get(patch).unwrap_or_default();
        program.add(ParamProgram {
            value: value as f32,
            ..plain(param(id))
        });
    }
}

fn add_source(program: &mut Program, patch: &Patch, source: &zolvik_patch::movement::Source) {
    let timing = &source.timing;
    let mut made = SourceProgram {
        rate_hz: timing.rate_hz,
        cycle_beats: timing.cycle_beats,
        id: source.id.0.into(),
        kind: source.kind.name() as u32,
        shared: u32::from(source.scope == Scope::Shared),
        runs: timing.runs as u32,
        in_beats: u32::from(timing.clock == Clock::Tempo),
        seed: patch.voice.seed.into(),
        delay_s: timing.delay_at_s(patch.audition.tempo_bpm) as f32,
        fade_s: timing.fade_s as f32,
        rise_s: timing.rise_s as f32,
        fall_s: timing.fall_s as f32,
        first_point: program.movement.shape_count,
        first_param: program.param_count,
        ..SourceProgram::zeroed()
    };
    let mut points = vec![];
    match &source.kind {
        SourceKind::Lfo(lfo) => points.extend(lfo.points.iter().map(|p| ShapeProgram {
            at: p.at as f32,
            level: p.level as f32,
            curve: p.curve as f32,
            bend: SegmentCurve::of(p.curve),
        })),
        SourceKind::Steps(steps) => points.extend(steps.steps.iter().map(|s| ShapeProgram {
            at: 0.0,
            level: s.level as f32,
            curve: s.glide as f32,
            bend: SegmentCurve::of(0.0),
        })),
        SourceKind::Envelope(envelope) => {
            made.envelope = envelope_program(envelope, patch.audition.tempo_bpm);
        }
        SourceKind::Random(random) => {
            made.variant = random.chance as u32;
            made.seed |= u32::from(random.seed) << 8;
        }
        SourceKind::Played(played) => made.variant = played.what as u32,
        SourceKind::Follower(follower) => {
            let at = program.unit_ids().position(|id| id == follower.unit);
            made.unit = at.unwrap_or(0) as u32;
        }
        SourceKind::Macro(_) => {}
    }
    for row in source_params(source.kind.name()) {
        let value = source.value(row.id).unwrap_or(row.default);
        program.add(ParamProgram {
            value: value as f32,
            ..plain(row)
        });
        made.params += 1;
    }
    let first = made.first_point as usize;
    made.points = points.len() as u32;
    program.movement.shapes[first..first + points.len()].copy_from_slice(&points);
    program.movement.shape_count += made.points;
    let at = program.movement.source_count as usize;
    program.movement.sources[at] = made;
    program.movement.source_count += 1;
}

fn add_onsets(program: &mut Program, patch: &Patch) {
    for (link, of) in patch.movement.links.iter().enumerate() {
        let row = param(of.to.param);
        let id = UnitId(of.to.id);
        if row.linked != Linked::Onset {
            continue;
        }
        let unit = program.unit_ids().position(|u| u == id);
        let source = id.source().map(|source| position(patch, source));
        if unit.is_none() && source.is_none_or(|at| at == NO_SLOT) {
            continue;
        }
        let what = match of.to.param {
            Point::TIME_S => onset::TIME,
            Point::LEVEL => onset::LEVEL,
            Point::CURVE => onset::CURVE,
            Operator::START_TURNS | Sample::START => onset::START,
            _ => onset::DELAY,
        };
        let seconds = matches!(what, onset::TIME | onset::DELAY);
        let tempo_scale = || {
            let envelope = patch.envelope(id);
            envelope.map_or(1.0, |e| e.tempo_scale(patch.audition.tempo_bpm) as f32)
        };
        let scale = match patch.unit(id).map(|unit| &unit.kind) {
            _ if seconds => tempo_scale(),
            // of the stretch that is played
            Some(UnitKind::Sample(sample)) if what == onset::START => {
                (1.0 / (sample.end - sample.start).max(SHORTEST_STRETCH)) as f32
            }
            _ => 1.0,
        };
        program.movement.onsets[program.movement.onset_count as usize] = OnsetProgram {
            unit: unit.map_or(NO_SLOT, |at| at as u32),
            source: source.unwrap_or(NO_SLOT),
            point: of.to.point.into(),
            what,
            link: link as u32,
            scale,
            low: row.min as f32,
            high: row.max as f32 * scale,
        };
        program.movement.onset_count += 1;
        match (unit, source) {
            (Some(at), _) if what != onset::START => program.units[at].own_envelope = 1,
            (None, Some(at)) => program.movement.sources[at as usize].own_envelope = 1,
            _ => {}
        }
    }
}

/// The parameters a link moves, and what they are of; none where the engine has none such.
fn targets(
    program: &mut Program,
    patch: &Patch,
    routes: &[RoutePlace],
    link: &Link,
) -> Vec<(u32, Of)> {
    if link.to.param != Group::LEVEL_DB {
        return target(program, patch, routes, link).into_iter().collect();
    }
    // a group has no sound of its own: its level is in all that leaves it
    let group = patch.groups.iter().find(|g| g.id.0 == link.to.id);
    let leaving = |route: &&RoutePlace| {
        let route = patch.route(route.id);
        route.is_some_and(|route| group.is_some_and(|group| patch.leaves(route, group)))
    };
    let most =
        db_gain(param(Group::LEVEL_DB).max) as f32 * db_gain(param(Send::LEVEL_DB).max) as f32;
    let all = routes.iter().filter(leaving);
    let all = all.map(|route| {
        program.params[route.depth as usize].high = most;
        (route.depth, Of::Unit(route.unit))
    });
    all.collect()
}

/// As [`targets`], of a value that is one parameter.
fn target(
    program: &Program,
    patch: &Patch,
    routes: &[RoutePlace],
    link: &Link,
) -> Option<(u32, Of)> {
    let (id, row) = (link.to.param, param(link.to.param));
    let all = row.linked == Linked::Patch;
    match row.owner {
        Owner::Unit if row.linked == Linked::Onset => None,
        Owner::Unit => {
            let at = program.unit_ids().position(|u| u == UnitId(link.to.id))?;
            let place = zolvik_patch::catalogue::position(id) as u32;
            let of = if all { Of::All } else { Of::Unit(at) };
            Some((program.units[at].first_param + place, of))
        }
        Owner::Route => {
            let route = routes.iter().find(|r| r.id == RouteId(link.to.id))?;
            let pan = [Send::PAN, Send::PASS_PAN].contains(&id);
            let to = if pan { route.pan } else { route.depth };
            Some((to, Of::Unit(route.unit)))
        }
        Owner::Patch if id == VoiceSettings::TRIM_DB => Some((program.trim, Of::All)),
        Owner::Patch => {
            let place = VOICE.iter().position(|p| *p == id)?;
            let of = if place < VOICE_PITCHES {
                Of::Voice
            } else {
                Of::All
            };
            Some((program.movement.first_voice + place as u32, of))
        }
        Owner::Source => {
            let at = position(patch, SourceId(link.to.id)) as usize;
            let source = program.movement.sources.get(at)?;
            let place = zolvik_patch::movement::source::source_position(id) as u32;
            (place < source.params).then_some((source.first_param + place, Of::Source(at)))
        }
        Owner::Link => {
            let of = LinkId(link.to.id);
            let at = patch.movement.links.iter().position(|l| l.id == of)?;
            Some((program.movement.links[at].amount, Of::Link(at)))
        }
        Owner::Chain | Owner::Effect | Owner::Band => {
            let to = racking::position(program, id, link.to.id, link.to.point)?;
            Some((to, Of::All))
        }
        Owner::Group | Owner::Point | Owner::Place => None,
    }
}

/// Moves stand in a row for each unit, the voice, each source, each link, and those of all notes alike.
fn add_moves(program: &mut Program, patch: &Patch, routes: &[RoutePlace]) {
    let links = patch.movement.links.iter().enumerate();
    let mut list: Vec<(Of, u32, u32)> = links
        .flat_map(|(at, link)| {
            let all = targets(program, patch, routes, link);
            all.into_iter()
                .map(move |(to, of)| (of, to, LINK + at as u32))
        })
        .collect();
    // those of one value side by side, whatever the file lists first
    list.sort_by_key(|(_, to, link)| (*to, *link));
    let moves = |program: &mut Program, of: Of| {
        let first = program.move_count;
        for (_, to, source) in list.iter().filter(|(o, ..)| *o == of) {
            program.add_move(of, *to, *source, 0);
        }
        (first, program.move_count - first)
    };
    for at in 0..program.unit_count() {
        let first = program.move_count;
        let id = UnitId(program.units[at].id as u16);
        if patch
            .unit(id)
            .is_some_and(|u| u.kind.name() == KindName::Filter)
        {
            let own =
                |row| program.units[at].first_param + zolvik_patch::catalogue::position(row) as u32;
            let [to, key, sweep] =
                [Filter::CUTOFF_HZ, Filter::KEY_FOLLOW, Filter::SWEEP_OCT].map(own);
            program.add_move(Of::Unit(at), to, Source::Key as u32, key);
            program.add_move(Of::Unit(at), to, Source::Envelope as u32, sweep);
        }
        moves(program, Of::Unit(at));
        program.units[at].first_move = first;
        program.units[at].moves = program.move_count - first;
    }
    (program.movement.first_move, program.movement.moves) = moves(program, Of::Voice);
    for at in 0..program.movement.source_count as usize {
        let (first, count) = moves(program, Of::Source(at));
        let source = &mut program.movement.sources[at];
        (source.first_move, source.moves) = (first, count);
    }
    for at in 0..program.movement.link_count as usize {
        let (first, count) = moves(program, Of::Link(at));
        let link = &mut program.movement.links[at];
        (link.first_move, link.moves) = (first, count);
        let whole = (link.begin, link.stretch) == (0.0, 1.0) && link.bend.is_straight();
        link.plain = u32::from(whole && link.scale == NO_SLOT && count == 0);
    }
    set_passes(program, &list);
    let (first, count) = moves(program, Of::All);
    (program.movement.first_shared, program.movement.shared) = (first, count);
    let voice = program.movement.first_voice..program.movement.first_voice + VOICE.len() as u32;
    let moved = program.moves[..program.move_count as usize].iter();
    let of_voice = moved.filter(|m| voice.contains(&m.to)).count();
    program.movement.moves_voice = u32::from(of_voice > program.movement.moves as usize);
    program.movement.moves_pitch = u32::from(program.movement.moves > 0);
    for at in 0..program.unit_count() {
        program.units[at].pitch_moved = u32::from(program.moves_pitch(at));
    }
}

/// Finds out for whom each link is computed: for those that read what it leads to, over other sources and links too.
fn set_passes(program: &mut Program, list: &[(Of, u32, u32)]) {
    let movement = &mut program.movement;
    let mut of_sources = movement.sources.map(|s| match s.shared {
        0 => pass::NOTES,
        _ => pass::SHARED,
    });
    let order = movement.order;
    let count = movement.order().len();
    for item in order[..count].iter().rev() {
        let Some(at) = item.checked_sub(LINKS_FROM) else {
            continue;
        };
        let mut passes = 0;
        for (of, ..) in list.iter().filter(|(.., link)| *link == LINK + at) {
            passes |= match of {
                Of::Unit(_) | Of::Voice => pass::NOTES,
                Of::All => pass::SHARED,
                Of::Source(to) => of_sources[*to],
                Of::Link(to) => movement.links[*to].passes,
            };
        }
        for onset in movement.onsets().iter().filter(|o| o.link == at) {
            passes |= match of_sources.get(onset.source as usize) {
                Some(of) => *of,
                None => pass::NOTES,
            };
        }
        // what leads nowhere is looked at all the same
        let passes = if passes == 0 { pass::NOTES } else { passes };
        let link = &mut movement.links[at as usize];
        link.passes = passes;
        // a source that something reads for all notes is asked for there
        for from in [link.from, link.scale] {
            if let Some(of) = of_sources.get_mut(from as usize) {
                *of |= passes;
            }
        }
    }
}

impl Program {
    /// Lets something move a parameter; what does not fit any more is left out.
    fn add_move(&mut self, of: Of, to: u32, source: u32, depth: u32) {
        if self.move_count as usize == MAX_MOVES {
            return;
        }
        let (slots, shared) = (self.slot_count, self.shared_count);
        let param = &mut self.params[to as usize];
        match of {
            Of::Unit(_) | Of::Voice if param.slot == NO_SLOT => {
                if slots as usize == MAX_SLOTS {
                    return;
                }
                param.slot = slots;
                self.slot_count += 1;
            }
            Of::All if param.shared == NO_SLOT => {
                param.shared = shared;
                self.shared_count += 1;
            }
            _ => {}
        }
        let within = |u: &UnitProgram| (u.first_param..u.first_param + u.params).contains(&to);
        let unit = self.units[..self.unit_count()].iter().position(within);
        self.moves[self.move_count as usize] = MoveProgram {
            to,
            source,
            depth,
            unit: unit.map_or(NO_SLOT, |at| at as u32),
        };
        self.move_count += 1;
    }
}
