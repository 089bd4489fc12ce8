//! Broken files of every kind, from seeds: each is refused in words or taken as something that holds, in little time.
#![cfg(feature = "exchange")]

use std::io::Cursor;
use std::time::Instant;

use rstest::rstest;
use zolvik_files::recording::{MAX_CHANNELS, RecordingError, content_of, take};
use zolvik_files::{bundle, midi, scala, wav};
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Unit, UnitId, UnitKind};
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::sound::{MAX_FRAMES, RATES_HZ, Sound};
use zolvik_patch::testing::Dice;
use zolvik_patch::validate::validate;

const FLAC: &[u8] = include_bytes!("recordings/tone.flac");
const OGG: &[u8] = include_bytes!("recordings/tone.ogg");
/// How long one of them may take at most, in a build without optimization on a busy machine.
const PATIENCE_S: f64 = 5.0;

/// The same each time; others by hand: ZOLVIK_SEED=1
fn dice(seed: u64) -> Dice {
    let other: u64 = std::env::var("ZOLVIK_SEED").map_or(0, |text| text.parse().unwrap());
    Dice(seed + (other << 20))
}

fn sine(frames: usize) -> Vec<f32> {
    (0..frames).map(|n| 0.5 * (n as f32 * 0.13).sin()).collect()
}

fn whole_wav(rate_hz: u32, channels: u16, frames: usize) -> Vec<u8> {
    let mut file = Cursor::new(vec![]);
    let spec = hound::WavSpec {
        channels,
        sample_rate: rate_hz,
        bits_per_sample: 16,
        sample_format: hound::SampleFormat::Int,
    };
    let mut writer = hound::WavWriter::new(&mut file, spec).unwrap();
    for sample in sine(frames) {
        for _ in 0..channels {
            writer.write_sample((sample * 32_000.0) as i16).unwrap();
        }
    }
    writer.finalize().unwrap();
    file.into_inner()
}

/// AIFF (Apple, Audio Interchange File Format, 1989): big-endian, its rate an 80-bit float.
fn aiff(rate_hz: u32, channels: u16, frames: usize) -> Vec<u8> {
    let exponent = 31 - rate_hz.leading_zeros();
    let mut common = channels.to_be_bytes().to_vec();
    common.extend((frames as u32).to_be_bytes());
    common.extend(16u16.to_be_bytes());
    common.extend((16_383 + exponent as u16).to_be_bytes());
    common.extend((u64::from(rate_hz) << (63 - exponent)).to_be_bytes());
    let mut sound = vec![0; 8];
    for sample in sine(frames) {
        for _ in 0..channels {
            sound.extend(((sample * 32_000.0) as i16).to_be_bytes());
        }
    }
    let part = |name: &[u8], body: &[u8]| {
        let length = (body.len() as u32).to_be_bytes();
        [name, &length[..], body].concat()
    };
    let parts = [
        &b"AIFF"[..],
        &part(b"COMM", &common),
        &part(b"SSND", &sound),
    ]
    .concat();
    part(b"FORM", &parts)
}

/// Turns bits, sets bytes to what readers trip over, leaves out and repeats stretches, mostly in the head.
fn damaged(whole: &[u8], dice: &mut Dice) -> Vec<u8> {
    let mut bytes = whole.to_vec();
    for _ in 0..=dice.below(6) {
        if bytes.is_empty() {
            break;
        }
        let within = if dice.below(4) == 0 {
            bytes.len()
        } else {
            bytes.len().min(160)
        };
        let at = dice.below(within);
        match dice.below(6) {
            0 => bytes[at] ^= 1 << dice.below(8),
            1 => bytes[at] = [0, 0x7F, 0x80, 0xFF][dice.below(4)],
            2 => {
                // lengths and counts
                let value = [0, 1, u32::MAX, i32::MAX as u32, 1 << 24][dice.below(5)];
                let end = (at + 4).min(bytes.len());
                bytes[at..end].copy_from_slice(&value.to_le_bytes()[..end - at]);
            }
            3 => drop(bytes.drain(at..(at + dice.below(40)).min(bytes.len()))),
            4 => {
                let again = bytes[at..(at + dice.below(40)).min(bytes.len())].to_vec();
                bytes.splice(at..at, again);
            }
            _ => bytes.truncate(bytes.len() - dice.below(bytes.len().min(400))),
        }
    }
    bytes
}

#[rstest]
#[case::wav(whole_wav(44_100, 2, 900))]
#[case::aiff(aiff(48_000, 1, 900))]
#[case::flac(FLAC.to_vec())]
#[case::ogg(OGG.to_vec())]
fn damaged_recordings_are_refused_or_hold(#[case] whole: Vec<u8>) {
    assert!(take(whole.clone(), "whole").is_ok());
    let mut dice = dice(whole.len() as u64);
    for round in 0..150 {
        let bytes = damaged(&whole, &mut dice);
        let began = Instant::now();
        match take(bytes, "damaged") {
            Err(problem) => assert!(problem.to_string().len() < 400),
            Ok(taken) => {
                let sound = &taken.sound;
                assert!(sound.frames <= MAX_FRAMES, "round {round}");
                assert!(
                    (RATES_HZ.0..=RATES_HZ.1).contains(&sound.rate_hz),
                    "round {round}"
                );
                assert_eq!(sound.content, content_of(&taken.wav), "round {round}");
                let read = wav::read(&taken.wav, 3600.0).unwrap();
                assert!(read.samples.iter().all(|s| s.is_finite() && s.abs() <= 4.0));
            }
        }
        assert!(began.elapsed().as_secs_f64() < PATIENCE_S, "round {round}");
    }
}

#[rstest]
#[case::wav_of_384_khz(whole_wav(384_000, 1, 4_000), RecordingError::Rate(384_000))]
#[case::aiff_of_384_khz(aiff(384_000, 1, 4_000), RecordingError::Rate(384_000))]
#[case::wav_of_64_channels(whole_wav(48_000, 64, 400), RecordingError::Channels(64))]
#[case::aiff_of_64_channels(aiff(48_000, 64, 400), RecordingError::Channels(64))]
#[case::wav_of_one_sample(whole_wav(48_000, 1, 1), RecordingError::Short(1))]
#[case::aiff_of_one_sample(aiff(48_000, 1, 1), RecordingError::Short(1))]
fn what_is_beyond_all_is_refused_for_what_it_is(
    #[case] file: Vec<u8>,
    #[case] why: RecordingError,
) {
    assert_eq!(take(file, "x").unwrap_err(), why);
}

#[test]
fn as_many_channels_as_are_mixed_come_in() {
    for file in [
        whole_wav(192_000, MAX_CHANNELS as u16, 400),
        aiff(8_000, MAX_CHANNELS as u16, 400),
    ] {
        assert_eq!(take(file, "x").unwrap().sound.frames, 400);
    }
}

#[test]
fn damaged_bundles_are_refused_or_hold() {
    let taken = take(whole_wav(48_000, 1, 600), "knock").unwrap();
    let mut patch = Patch::empty();
    let mut unit = Unit::new(UnitId(2), KindName::Sample);
    if let UnitKind::Sample(sample) = &mut unit.kind {
        sample.sound = Sound::Own(taken.sound.clone());
    }
    patch.units.push(unit);
    let mut packed = Cursor::new(vec![]);
    bundle::write(&patch, &mut packed, |_| Some(taken.wav.clone())).unwrap();
    let whole = packed.into_inner();
    let mut dice = dice(55);
    for round in 0..300 {
        // the list stands at the end of a ZIP file: that is its head
        let mut bytes = whole.clone();
        if dice.below(2) == 0 {
            bytes.reverse();
        }
        let mut bytes = damaged(&bytes, &mut dice);
        if bytes.len() >= 4 && !bundle::is_bundle(&bytes) {
            bytes.reverse();
        }
        let began = Instant::now();
        let mut handed = vec![];
        let read = bundle::read(Cursor::new(bytes), &mut |taken| {
            handed.push(taken);
            Ok::<(), std::convert::Infallible>(())
        });
        for taken in &handed {
            assert_eq!(taken.sound.content, content_of(&taken.wav), "round {round}");
        }
        match read {
            Err(problem) => assert!(problem.to_string().len() < 600, "round {round}"),
            Ok(Ok(patch)) => assert_eq!(validate(&patch), Ok(()), "round {round}"),
        }
        assert!(began.elapsed().as_secs_f64() < PATIENCE_S, "round {round}");
    }
}

#[test]
fn damaged_midi_files_are_refused_or_hold() {
    let whole = midi::write(&READY_PHRASES[4].phrase(), 57, 120.0, |beats| beats);
    let mut dice = dice(2000);
    for round in 0..1500 {
        let bytes = damaged(&whole, &mut dice);
        match midi::read(&bytes, "damaged", 57) {
            Err(problem) => assert!(problem.to_string().len() < 400, "round {round}"),
            Ok(read) => read.phrase.check("phrase").unwrap(),
        }
    }
}

const SCALE: &str = "! x.scl\n!\nSeven of nineteen\n 7\n!\n 189.474\n 6/5\n 504.2\n 3/2\n 884.1\n 1073.7 seventh\n 2/1\n";
const MAP: &str = "! x.kbm\n7\n0\n127\n60\n69\n440.0\n7\n0\n1\n2\nx\n4\n5\n6\n";

#[test]
fn damaged_scales_and_maps_are_refused_or_hold() {
    let whole = scala::read_scale(SCALE, "x").unwrap();
    let map = scala::read_map(MAP).unwrap();
    assert!(scala::lay(&whole, map).is_ok());
    let words = [
        "",
        "x",
        "-1",
        "0/0",
        "1/0",
        "1e308",
        "nan",
        "inf",
        "18446744073709551616/3",
        "2000.0",
        "-9999999.9",
        "\u{0}",
        "３/２",
    ];
    let mut dice = dice(19);
    for round in 0..1500 {
        let mut line_by_line = |text: &str| {
            let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
            for _ in 0..=dice.below(3) {
                let at = dice.below(lines.len());
                match dice.below(4) {
                    0 => lines[at] = words[dice.below(words.len())].into(),
                    1 => drop(lines.remove(at)),
                    2 => lines.insert(at, words[dice.below(words.len())].into()),
                    _ => {
                        let bytes = damaged(lines[at].as_bytes(), &mut dice);
                        lines[at] = String::from_utf8_lossy(&bytes).into_owned();
                    }
                }
            }
            lines.join("\n")
        };
        let (scale, map) = (line_by_line(SCALE), line_by_line(MAP));
        let scale = scala::read_scale(&scale, "damaged");
        let map = scala::read_map(&map);
        if let Ok(scale) = &scale {
            assert!(scale.cents.iter().all(|c| c.is_finite()), "round {round}");
            if let Ok(map) = map
                && let Ok(laid) = scala::lay(scale, map)
            {
                let mut patch = Patch::empty();
                patch.scale = Some(laid);
                assert_eq!(validate(&patch), Ok(()), "round {round}");
            }
        }
    }
}
