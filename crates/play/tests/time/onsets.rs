use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::{Mode, Quality, TunedBy};
use zolvik_patch::playing::{Beat, Order, swung};
use zolvik_play::Score;

use crate::support::{click, onsets, phrase, play, played, player};

/// When something at these beats of a round is to be heard, in frames.
fn ideal(at: &[f64], round: f64, (tempo, rate_hz): (f64, f64), frames: usize) -> Vec<f64> {
    let a_beat = 60.0 / tempo * rate_hz;
    let rounds = (frames as f64 / (round * a_beat)) as usize + 1;
    let all = (0..rounds).flat_map(|n| at.iter().map(move |at| (n as f64 * round + at) * a_beat));
    all.filter(|at| *at < frames as f64 - 1.0).collect()
}

fn assert_on_time(found: &[usize], expected: &[f64], what: &str) {
    assert_eq!(found.len(), expected.len(), "{what}");
    // what is struck on the grid is heard from its second sample on: its first is still at the height of silence
    let first = found[0] as f64 - expected[0];
    assert!(
        (0.0..=1.0).contains(&first),
        "{what}: begins {first} frames late"
    );
    for (found, expected) in found.iter().zip(expected) {
        let off = *found as f64 - first - expected;
        assert!(off.abs() <= 1.0, "{what}: {off} frames off at {expected}");
    }
}

const TIMES: &[f64] = &[0.0, 0.75, 1.0, 1.333, 2.25, 3.1];

fn with(tempo: f64, change: impl FnOnce(&mut Patch)) -> Patch {
    let mut patch = click();
    patch.audition.tempo_bpm = tempo;
    patch.audition.note = 84;
    change(&mut patch);
    patch
}

#[rstest]
fn notes_of_a_phrase_fall_on_their_sample_for_ten_minutes(
    #[values((43.0, 48_000.0), (84.0, 44_100.0), (97.3, 48_000.0), (120.0, 44_100.0), (133.7, 48_000.0), (174.0, 44_100.0), (299.0, 48_000.0))]
    (tempo, rate_hz): (f64, f64),
) {
    let patch = with(tempo, |patch| {
        patch.playing.phrase = Some(phrase(TIMES, 4.0).into());
    });
    let frames = (600.0 * rate_hz) as usize;
    let (sound, _) = play(&patch, rate_hz, frames);
    let expected = ideal(TIMES, 4.0, (tempo, rate_hz), frames);
    let found = onsets(&sound, (0.01 * rate_hz) as usize);
    assert_on_time(&found, &expected, &format!("{tempo} bpm at {rate_hz} Hz"));
}

/// One voice whose sounds end before the next key takes it up, its keys held into each other or not.
#[rstest]
fn plucks_of_one_voice_fall_on_their_sample_for_ten_minutes(
    #[values(97.3, 299.0)] tempo: f64,
    #[values(44_100.0, 48_000.0)] rate_hz: f64,
    #[values(1.0 / 64.0, 1.5)] length_beats: f64,
) {
    let patch = with(tempo, |patch| {
        patch.voice.mode = Mode::Mono;
        // its phase stands still, so that it is there with its first sample wherever it was before
        if let Some(operator) = patch.units[0].oscillator_mut() {
            operator.tuned_by = TunedBy::Fixed;
            (operator.fixed_hz, operator.offset_hz) = (0.01, -0.01);
        }
        // struck, and gone after 8 ms while its key is still down
        patch.units[0].envelope.points[1].time_s = 0.008;
        patch.units[0].envelope.points[1].level = 0.0;
        let mut own = phrase(TIMES, 4.0);
        for (at, note) in own.notes.iter_mut().enumerate() {
            (note.length_beats, note.semitones) = (length_beats, at as i16);
        }
        patch.playing.phrase = Some(own.into());
    });
    let frames = (600.0 * rate_hz) as usize;
    let (sound, _) = play(&patch, rate_hz, frames);
    let expected = ideal(TIMES, 4.0, (tempo, rate_hz), frames);
    let found = onsets(&sound, (0.01 * rate_hz) as usize);
    assert_on_time(&found, &expected, &format!("{tempo} bpm at {rate_hz} Hz"));
}

#[rstest]
fn the_beat_falls_on_its_sample_for_ten_minutes(
    #[values((43.0, 48_000.0), (84.0, 44_100.0), (97.3, 48_000.0), (120.0, 44_100.0), (133.7, 48_000.0), (174.0, 44_100.0), (299.0, 48_000.0))]
    (tempo, rate_hz): (f64, f64),
) {
    let mut patch = Patch::empty();
    patch.units.clear();
    patch.routes.clear();
    patch.voice.quality = Quality::X1;
    patch.audition.tempo_bpm = tempo;
    patch.playing.beat = Beat::SlowGate;
    let frames = (600.0 * rate_hz) as usize;
    let mut player = player(&patch, rate_hz);
    player.play(Score::beat(&patch), true);
    let (_, beat) = played(&mut player, frames);
    // the first stroke of two bars is a kick and a shaker at once: from silence at the very begin of the first round
    let drum = player_drum(rate_hz);
    for round in [0, 1, 17, (tempo * 10.0 / 8.0) as usize - 1] {
        let at = round as f64 * 8.0 * 60.0 / tempo * rate_hz;
        let near = at.round() as usize;
        let like = |from: usize| -> f64 {
            let pairs = drum.iter().zip(&beat[from..]).take(400);
            pairs.map(|(a, b)| f64::from((a - b).abs())).sum()
        };
        let from = near.saturating_sub(6);
        let best = (from..near + 7).min_by(|a, b| like(*a).total_cmp(&like(*b)));
        let off = best.unwrap() as f64 - at;
        assert!(
            off.abs() <= 1.0,
            "round {round} is {off} frames off at {tempo} bpm"
        );
    }
}

/// Kick and shaker as they begin together.
fn player_drum(rate_hz: f64) -> Vec<f32> {
    use zolvik_patch::playing::beat::Drum;
    let drums = zolvik_play::Drums::new(rate_hz);
    let pairs = drums
        .sound(Drum::Kick)
        .iter()
        .zip(drums.sound(Drum::Shaker));
    pairs.map(|(a, b)| a + b).collect()
}

#[rstest]
#[case::sixteenths(0.25, 0.5)]
#[case::triplets(1.0 / 3.0, 0.5)]
#[case::swung(0.25, 0.62)]
fn the_arpeggio_falls_on_its_sample_for_ten_minutes(
    #[case] rate_beats: f64,
    #[case] swing: f64,
    #[values((43.0, 48_000.0), (97.3, 44_100.0), (133.7, 48_000.0), (299.0, 44_100.0))]
    (tempo, rate_hz): (f64, f64),
) {
    let held = [0.0];
    let patch = with(tempo, |patch| {
        let arpeggio = &mut patch.playing.arpeggio;
        (arpeggio.order, arpeggio.rate_beats) = (Order::Up, rate_beats);
        (arpeggio.gate, arpeggio.swing) = (0.1, swing);
        let mut long = phrase(&held, 4096.0);
        long.notes[0].length_beats = 4000.0;
        patch.playing.phrase = Some(long.into());
    });
    let frames = (600.0 * rate_hz) as usize;
    let (sound, _) = play(&patch, rate_hz, frames);
    let steps = (600.0 * tempo / 60.0 / rate_beats) as usize + 1;
    let at: Vec<f64> = (0..steps)
        .map(|n| swung(n as f64 * rate_beats, rate_beats, swing))
        .collect();
    let expected = ideal(&at, 1e9, (tempo, rate_hz), frames);
    let found = onsets(&sound, (0.01 * rate_hz) as usize);
    assert_on_time(&found, &expected, &format!("{tempo} bpm at {rate_hz} Hz"));
}

#[test]
fn swing_is_the_same_for_phrase_and_beat() {
    let patch = with(120.0, |patch| {
        patch.playing.swing = 0.66;
        patch.playing.phrase = Some(phrase(&[0.25, 0.5, 0.75, 1.25], 2.0).into());
    });
    let (sound, _) = play(&patch, 48_000.0, 48_000);
    let expected = ideal(&[0.33, 0.5, 0.83, 1.33], 2.0, (120.0, 48_000.0), 48_000);
    assert_on_time(&onsets(&sound, 480), &expected, "swung");
}

#[test]
fn notes_fall_on_their_sample_at_every_quality_and_sound_as_they_would_on_the_grid() {
    for quality in [Quality::X1, Quality::X2, Quality::X4] {
        let at = |at: f64| {
            let patch = with(120.0, |patch| {
                patch.voice.quality = quality;
                patch.playing.phrase = Some(phrase(&[at], 4.0).into());
            });
            play(&patch, 48_000.0, 9_600).0
        };
        // a note a few frames into a block is the note on the grid, that much later, to the bit but for its release
        let (grid, within) = (at(0.0), at(11.0 / 24_000.0));
        let same = grid[..300].iter().zip(&within[11..311]);
        assert!(same.clone().all(|(a, b)| a == b), "at {quality:?}");
        assert!(same.clone().any(|(a, _)| a.abs() > 0.1));
        assert!(
            within[..11].iter().all(|s| s.abs() < 1e-6),
            "at {quality:?}"
        );
    }
}

#[test]
fn a_note_that_waits_ends_without_a_click() {
    let patch = with(120.0, |patch| {
        patch.audition.note = 33;
        patch.playing.phrase = Some(phrase(&[13.0 / 24_000.0], 4.0).into());
    });
    let (sound, _) = play(&patch, 48_000.0, 9_600);
    let last = sound.iter().rposition(|s| *s != 0.0).unwrap();
    // 8 ms fall linearly to nothing: the last step is no larger than any before it
    let step = |at: usize| (sound[at + 1] - sound[at]).abs();
    assert!(step(last) < 0.01, "a step of {} at the end", step(last));
}

#[test]
fn a_round_begins_anew_and_a_stop_lets_every_key_go() {
    let patch = with(120.0, |patch| {
        let mut long = phrase(&[0.0], 1.0);
        long.notes[0].length_beats = 3.0;
        patch.playing.phrase = Some(long.into());
    });
    let mut player = player(&patch, 48_000.0);
    player.play(Score::of(&patch), true);
    played(&mut player, 60_000);
    assert_eq!(player.engine.voices(), 1, "the same key is one note");
    player.stop();
    let (rest, _) = played(&mut player, 4_800);
    assert!(rest[2_000..].iter().all(|s| *s == 0.0));
    assert_eq!(player.place_beats(), None);
}

/// Stopped and taken up again, notes and beat fall where they would have, as far from that place as they are from it.
#[rstest]
#[case::in_the_first_round(1.3)]
#[case::in_a_later_round(9.6)]
#[case::at_a_note(2.25)]
fn what_was_stopped_goes_on_at_its_place(
    #[case] stopped_beats: f64,
    #[values(true, false)] told: bool,
) {
    let tempo = 97.3;
    let patch = with(tempo, |patch| {
        patch.playing.phrase = Some(phrase(TIMES, 4.0).into());
        patch.playing.beat = Beat::SlowGate;
    });
    let a_beat = 60.0 / tempo * 48_000.0;
    // the player stands on the grid of its blocks
    let frames = (stopped_beats * a_beat / 16.0).round() as usize * 16;
    let at_beats = frames as f64 / a_beat;
    let mut player = player(&patch, 48_000.0);
    player.play(Score::of(&patch), true);
    played(&mut player, frames);
    player.stop();
    played(&mut player, 4_800);
    let left = player.left_beats();
    assert!((left - at_beats).abs() < 1e-6, "{left} for {at_beats}");
    let from = if told { at_beats } else { left };
    player.play_from(Score::of(&patch), true, from);
    let (sound, beat) = played(&mut player, 480_000);
    let (whole, whole_beat) = play(&patch, 48_000.0, 480_000 + frames);
    let expected = onsets(&whole[frames..], 480);
    let found = onsets(&sound, 480);
    assert!(found.len() > 10);
    assert_eq!(found.len(), expected.len());
    for (found, expected) in found.iter().zip(&expected) {
        assert!(found.abs_diff(*expected) <= 1, "{found} for {expected}");
    }
    // strokes that had begun are not heard again, so the beat is the same once they are over
    let later = 96_000;
    let off = beat[later..].iter().zip(&whole_beat[frames + later..]);
    assert!(off.clone().any(|(_, b)| b.abs() > 0.05));
    let most = off.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
    assert!(most < 0.02, "{most}");
}

#[test]
fn a_phrase_that_is_not_repeated_ends_by_itself() {
    let patch = with(120.0, |patch| {
        patch.playing.phrase = Some(phrase(&[0.0, 0.5], 1.0).into());
        patch.playing.beat = Beat::NightTrain;
    });
    let mut player = player(&patch, 48_000.0);
    player.play(Score::of(&patch), false);
    let (sound, beat) = played(&mut player, 96_000);
    assert_eq!(onsets(&sound, 480).len(), 2);
    assert_eq!(player.place_beats(), None);
    assert!(
        beat[60_000..].iter().all(|s| *s == 0.0),
        "the beat ends with it"
    );
}

#[rstest]
#[case::plain(Quality::X1)]
#[case::twice(Quality::X2)]
#[case::four_times(Quality::X4)]
#[case::eight_times(Quality::X8)]
#[case::as_needed(Quality::Auto)]
fn patch_and_beat_stay_together_at_every_quality(#[case] quality: Quality) {
    let patch = with(120.0, |patch| {
        patch.voice.quality = quality;
        patch.audition.note = 60;
        patch.playing.phrase = Some(phrase(&[0.0], 4.0).into());
        patch.playing.beat = Beat::NightTrain;
    });
    let (sound, beat) = play(&patch, 48_000.0, 9_600);
    // where a sine that begins at its top crosses half its height: ringing before it stays below
    let crosses = |sound: &[f32], height: f32| sound.iter().position(|s| s.abs() > height).unwrap();
    let peak = sound.iter().fold(0.0, |a: f32, b| a.max(b.abs()));
    let (note, kick) = (crosses(&sound, 0.5 * peak), crosses(&beat, 1e-3));
    // what begins at once rises over one block, computed at so many times the rate
    let times = patch.times_rate_auditioned() as f64;
    let apart = note as f64 - kick as f64 - 8.0 / times;
    assert!(apart.abs() <= 2.0, "{apart} frames apart at {quality:?}");
}

#[test]
fn what_the_arpeggio_plays_is_recorded_as_it_is_heard() {
    use zolvik_play::recorder::Recorder;
    let patch = with(120.0, |patch| {
        patch.playing.arpeggio.order = Order::Up;
        patch.playing.arpeggio.gate = 0.5;
    });
    let mut player = player(&patch, 48_000.0);
    player.play(Score::beat(&patch), true);
    player.record(true);
    for key in [60, 64, 67] {
        player.midi([0x90, key, 100]);
    }
    played(&mut player, 48_000);
    for key in [60, 64, 67] {
        player.midi([0x80, key, 0]);
    }
    played(&mut player, 4_800);
    player.record(false);
    let mut recorder = Recorder::new(60);
    for kept in player.kept() {
        let [a, b, c, _] = kept.message;
        recorder.take(kept.at_beats, [a, b, c]);
    }
    let phrase = recorder.phrase("Recorded", 0.0).unwrap();
    let keys: Vec<i16> = phrase.notes.iter().map(|n| n.semitones).collect();
    assert_eq!(keys, [0, 4, 7, 0, 4, 7, 0, 4]);
    for (at, note) in phrase.notes.iter().enumerate() {
        assert!((note.at_beats - at as f64 * 0.25).abs() < 1e-9);
        assert!(
            (note.length_beats - 0.125).abs() < 0.001,
            "{}",
            note.length_beats
        );
    }
    assert_eq!(phrase.length_beats, 4.0);
}
