//! Wide and centred at once: copies by unit, places kept through what comes after, level strips.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::{Bus, Filter, FilterType, Level, Send, Start, Unit, UnitId, UnitKind};
use zolvik_patch::wave::{Shape, Wave};

use crate::support::*;

pub const MIDDLE: Send = Send::Output {
    level_db: 0.0,
    pan: 0.0,
    bus: Bus::Main,
};

pub fn through(to: u16, pass_pan: f64) -> Send {
    Send::Audio {
        to: UnitId(to),
        pass_db: 0.0,
        pass_pan,
    }
}

/// A unit whose envelope is up at once and stays up, whatever the velocity.
pub fn constant(id: u16, kind: UnitKind) -> Unit {
    let mut unit = Unit::new(UnitId(id), kind.name());
    unit.kind = kind;
    unit.velocity = 0.0;
    let points = &mut unit.envelope.points;
    (points[0].time_s, points[1].time_s, points[1].level) = (0.0, 0.0, 1.0);
    unit
}

/// Low and without resonance, so far up that all of a deep sound passes.
fn open_filter() -> UnitKind {
    UnitKind::Filter(Filter {
        response: FilterType::Low,
        cutoff_hz: 20_000.0,
        resonance: 0.0,
        key_follow: 0.0,
        sweep_oct: 0.0,
        ..Filter::default()
    })
}

/// A saw with seven wide copies over a sine an octave lower with one.
fn saw_over_sub() -> Patch {
    let mut patch = plain_units(&[1.0, 0.5]);
    patch.units[0].oscillator_mut().unwrap().wave = Wave::Shape(Shape::Saw);
    patch.units[0].copies = 7;
    patch.units[1].copies = 1;
    let unison = &mut patch.voice.unison;
    (unison.copies, unison.detune_cents, unison.spread) = (7, 25.0, 1.0);
    connect(&mut patch, 1, MIDDLE);
    connect(&mut patch, 2, MIDDLE);
    patch
}

#[rstest]
#[case::straight(false)]
#[case::all_through_one_filter(true)]
fn a_sub_under_seven_copies_stays_in_the_middle_and_on_pitch(#[case] filtered: bool) {
    let mut patch = saw_over_sub();
    if filtered {
        patch.units.push(constant(3, open_filter()));
        patch.routes.clear();
        connect(&mut patch, 1, through(3, 0.0));
        connect(&mut patch, 2, through(3, 0.0));
        connect(&mut patch, 3, MIDDLE);
    }
    let mut engine = engine(&patch);
    engine.note_on(45, 127);
    take(&mut engine, 4_800);
    let (left, right) = take(&mut engine, 4 * 48_000);
    let side: Vec<f32> = left
        .iter()
        .zip(&right)
        .map(|(l, r)| 0.5 * (l - r))
        .collect();
    let middle: Vec<f32> = left
        .iter()
        .zip(&right)
        .map(|(l, r)| 0.5 * (l + r))
        .collect();
    let hz = 55.0;
    let (in_the_middle, in_the_side) = (partial(&middle, hz).0, partial(&side, hz).0);
    assert!(
        off_db(in_the_side, in_the_middle) < -100.0,
        "{in_the_side} beside {in_the_middle}"
    );
    // as loud as alone: at equal power in the middle
    let alone = std::f64::consts::FRAC_1_SQRT_2;
    assert!(off_db(in_the_middle, alone).abs() < 0.05, "{in_the_middle}");
    // the saw is wide
    let saw = |samples: &[f32]| {
        let total: f64 = samples.iter().map(|s| f64::from(*s).powi(2)).sum();
        total / samples.len() as f64
    };
    assert!(saw(&side) > 0.02, "{}", saw(&side));
    // pitch from how far the phase runs off in two seconds
    let (early, late) = (&middle[..96_000], &middle[96_000..]);
    let turned = partial(late, hz).1 - partial(early, hz).1;
    let turns = turned - turned.round();
    let cents = 1200.0 * (1.0 + turns / 2.0 / hz).log2();
    assert!(cents.abs() < 0.01, "{cents} cents");
}

#[rstest]
fn copies_are_together_as_loud_as_one(
    #[values(2, 3, 5, 7, 12, 16)] copies: u8,
    #[values(Start::Fixed, Start::Random)] start: Start,
    #[values(false, true)] filtered: bool,
) {
    let level = |copies: u8| {
        let mut patch = plain_units(&[1.0]);
        patch.units[0].copies = copies;
        patch.units[0].oscillator_mut().unwrap().wave = Wave::Shape(Shape::Saw);
        let unison = &mut patch.voice.unison;
        (unison.start, unison.detune_cents, unison.spread) = (start, 30.0, 0.7);
        match filtered {
            false => connect(&mut patch, 1, MIDDLE),
            true => {
                patch.units.push(constant(2, open_filter()));
                connect(&mut patch, 1, through(2, 0.0));
                connect(&mut patch, 2, MIDDLE);
            }
        }
        let mut engine = engine(&patch);
        engine.note_on(57, 127);
        let (left, right) = take(&mut engine, 8 * 48_000);
        let all = left.iter().chain(&right);
        all.map(|s| f64::from(*s).powi(2)).sum::<f64>().sqrt()
    };
    let off = off_db(level(copies), level(1));
    assert!(off.abs() < 0.5, "{off} dB");
}

#[rstest]
fn copies_that_start_alike_begin_as_strong_as_one(#[values(2, 4, 7, 16)] copies: u8) {
    let level = |copies: u8| {
        let mut patch = plain_units(&[1.0]);
        patch.units[0].copies = copies;
        let unison = &mut patch.voice.unison;
        (unison.start, unison.detune_cents, unison.spread) = (Start::Fixed, 0.5, 0.0);
        connect(&mut patch, 1, TO_LEFT);
        let mut engine = engine(&patch);
        engine.note_on(69, 127);
        // 44 whole cycles
        let left = take(&mut engine, 4_800).0;
        left.iter()
            .map(|s| f64::from(*s).powi(2))
            .sum::<f64>()
            .sqrt()
    };
    let off = off_db(level(copies), level(1));
    assert!(off.abs() < 1.0, "{off} dB");
}

/// Sidebands of a carrier of two copies by theory: `J1(index)` of each, beside each, at the modulator's own distance.
#[test]
fn a_modulator_of_one_copy_moves_every_copy_of_its_carrier_alike() {
    // so that what is reflected at nothing meets nothing
    let mut patch = plain_units(&[1.0, 0.37]);
    patch.units[0].copies = 2;
    patch.units[1].copies = 1;
    let unison = &mut patch.voice.unison;
    (unison.detune_cents, unison.spread) = (30.0, 0.0);
    connect(&mut patch, 2, index(1, 1.0));
    connect(&mut patch, 1, TO_LEFT);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4_800);
    let samples = take(&mut engine, 4 * 48_000).0;
    for place in [-1.0, 1.0] {
        let hz = 440.0 * 2f64.powf(place * 30.0 / 1200.0);
        let each = 0.5f64.sqrt();
        for (n, bessel) in [
            (-1.0, 0.440_050_59),
            (0.0, 0.765_197_69),
            (1.0, 0.440_050_59),
        ] {
            let level = partial(&samples, hz + n * 0.37 * 440.0).0;
            let off = off_db(level, each * bessel);
            assert!(off.abs() < 0.01, "{place} {n}: {off} dB");
        }
    }
}

#[test]
fn a_unit_has_its_own_share_of_detune() {
    let mut patch = plain_units(&[1.0]);
    patch.units[0].copies = 2;
    patch.units[0].detune_share = 0.5;
    let unison = &mut patch.voice.unison;
    (unison.detune_cents, unison.spread) = (40.0, 0.0);
    connect(&mut patch, 1, TO_LEFT);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    let samples = take(&mut engine, 4 * 48_000).0;
    for cents in [-20.0, 20.0] {
        let level = partial(&samples, 440.0 * 2f64.powf(cents / 1200.0)).0;
        assert!(
            off_db(level, 0.5f64.sqrt()).abs() < 0.02,
            "{cents}: {level}"
        );
    }
}

#[rstest]
#[case::none(0.0, true)]
#[case::all(1.0, false)]
fn a_unit_has_its_own_share_of_spread(#[case] share: f64, #[case] narrow: bool) {
    let mut patch = plain_units(&[1.0]);
    patch.units[0].copies = 4;
    patch.units[0].spread_share = share;
    let unison = &mut patch.voice.unison;
    (unison.detune_cents, unison.spread) = (20.0, 1.0);
    connect(&mut patch, 1, MIDDLE);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4_800);
    let (left, right) = take(&mut engine, 48_000);
    let side = |(l, r): (&f32, &f32)| f64::from(l - r).powi(2);
    let power = left.iter().zip(&right).map(side).sum::<f64>() / 48_000.0;
    assert_eq!(power < 1e-12, narrow, "{power}");
}

/// Cents a sine is off its pitch in four half seconds, from how far its phase runs.
fn wandering_cents(drift_share: f64) -> f64 {
    let mut patch = plain_units(&[1.0]);
    patch.units[0].drift_share = drift_share;
    patch.voice.drift_cents = 20.0;
    connect(&mut patch, 1, TO_LEFT);
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    let parts: Vec<f64> = (0..5)
        .map(|_| partial(&take(&mut engine, 24_000).0, 440.0).1)
        .collect();
    let off = |pair: &[f64]| {
        let turns = pair[1] - pair[0];
        let turns = turns - turns.round();
        (1200.0 * (1.0 + turns / 0.5 / 440.0).log2()).abs()
    };
    parts.windows(2).map(off).fold(0.0, f64::max)
}

#[test]
fn a_unit_has_its_own_share_of_drift() {
    assert!(wandering_cents(0.0) < 1e-3, "{}", wandering_cents(0.0));
    // beyond a turn in half a second the measure wraps; it need only be off
    assert!(wandering_cents(0.2) > 0.1, "{}", wandering_cents(0.2));
    assert!(wandering_cents(0.2) < 4.0, "{}", wandering_cents(0.2));
}

/// Six sines far apart, each at a place of its own, straight or through something.
fn six_places(after: Option<UnitKind>) -> Patch {
    let pans = [-1.0, -0.6, -0.1, 0.2, 0.7, 1.0];
    let mut patch = plain_units(&[1.0, 1.5, 2.25, 3.25, 4.5, 6.0]);
    for (n, pan) in pans.into_iter().enumerate() {
        let send = match after {
            Some(_) => Send::Audio {
                to: UnitId(7),
                pass_db: -20.0,
                pass_pan: pan,
            },
            None => Send::Output {
                level_db: -20.0,
                pan,
                bus: Bus::Main,
            },
        };
        connect(&mut patch, n as u16 + 1, send);
    }
    if let Some(kind) = after {
        patch.units.push(constant(7, kind));
        connect(&mut patch, 7, MIDDLE);
    }
    patch
}

fn places(patch: &Patch) -> Vec<[f64; 2]> {
    let mut engine = engine(patch);
    engine.note_on(57, 127);
    take(&mut engine, 4_800);
    let (left, right) = take(&mut engine, 48_000);
    [1.0, 1.5, 2.25, 3.25, 4.5, 6.0]
        .map(|ratio| [&left, &right].map(|side| partial(side, 220.0 * ratio).0))
        .into()
}

#[rstest]
#[case::filter(open_filter())]
#[case::level_strip(UnitKind::Level(Level::default()))]
fn a_stack_panned_into_one_unit_is_the_stack_panned_at_the_output(#[case] kind: UnitKind) {
    let (straight, through) = (places(&six_places(None)), places(&six_places(Some(kind))));
    for (n, (here, there)) in straight.iter().zip(&through).enumerate() {
        for side in 0..2 {
            let apart = (here[side] - there[side]).abs();
            let off = match here[side] > 1e-5 {
                true => off_db(there[side], here[side]),
                false => 0.0,
            };
            assert!(
                off.abs() < 0.01 && apart < 1e-4,
                "{n} {side}: {here:?} {there:?}"
            );
        }
    }
}

#[test]
fn places_stay_through_units_in_a_row_and_a_comb() {
    let mut patch = six_places(Some(open_filter()));
    patch.routes.pop();
    patch.units.push(constant(
        8,
        UnitKind::Filter(Filter {
            response: FilterType::CombPlus,
            cutoff_hz: 300.0,
            resonance: 0.3,
            key_follow: 0.0,
            sweep_oct: 0.0,
            ..Filter::default()
        }),
    ));
    connect(&mut patch, 7, through(8, 0.0));
    connect(&mut patch, 8, MIDDLE);
    let places = places(&patch);
    assert!(places[0][1] < 1e-5 * places[0][0], "{:?}", places[0]);
    assert!(places[5][0] < 1e-5 * places[5][1], "{:?}", places[5]);
    // the same side by side as at equal power
    let law = (0.5f64 * (1.0 + 0.2) * std::f64::consts::FRAC_PI_2).tan();
    let ratio = places[3][1] / places[3][0];
    assert!(off_db(ratio, law).abs() < 0.01, "{ratio} {law}");
}

#[rstest]
#[case::as_it_is(0.0, 1.0, 1.0, 1.0)]
#[case::lower(-6.0, 1.0, 1.0, 0.501_187)]
#[case::envelope(0.0, 0.25, 1.0, 0.25)]
#[case::half_of_it(0.0, 0.0, 0.5, 0.5)]
#[case::goes_by(-72.0, 0.5, 0.0, 1.0)]
fn a_level_strip_is_a_factor(
    #[case] level_db: f64,
    #[case] sustain: f64,
    #[case] mix: f64,
    #[case] factor: f64,
) {
    let mut patch = plain_units(&[1.0]);
    patch
        .units
        .push(constant(2, UnitKind::Level(Level { level_db, mix })));
    patch.units[1].envelope.points[1].level = sustain;
    connect(&mut patch, 1, through(2, 0.0));
    connect(&mut patch, 2, TO_LEFT);
    let mut engine = engine(&patch);
    engine.note_on(69, 64);
    take(&mut engine, 4_800);
    let level = partial(&take(&mut engine, 24_000).0, 440.0).0;
    assert!(off_db(level, factor).abs() < 0.001, "{level} {factor}");
}

#[rstest]
#[case::into_the_filter(through(3, 0.8))]
#[case::phase(Send::Phase { to: UnitId(2), index_rad: 0.0 })]
fn a_silent_send_changes_no_bit_of_what_is_wide(#[case] send: Send) {
    let sound = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(50, 100);
        let (left, right) = take(&mut engine, 9_600);
        [left, right].concat()
    };
    let mut patch = saw_over_sub();
    patch.units.push(constant(3, open_filter()));
    patch.routes.clear();
    connect(&mut patch, 2, through(3, 0.5));
    connect(&mut patch, 1, MIDDLE);
    connect(&mut patch, 3, MIDDLE);
    let before = sound(&patch);
    let mut send = send;
    if let Send::Audio { pass_db, .. } = &mut send {
        *pass_db = -72.0;
    }
    connect(&mut patch, 1, send);
    assert_eq!(sound(&patch), before);
}
