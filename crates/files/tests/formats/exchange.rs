//! Recordings of every kind in, and bundles out and in; whatever is wrong is said and nothing is kept.
#![cfg(feature = "exchange")]

use std::collections::HashMap;
use std::io::{Cursor, Write};

use rstest::rstest;
use zolvik_files::bundle::{self, BundleError};
use zolvik_files::recording::{RecordingError, content_of, take};
use zolvik_files::wav;
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Sample, Unit, UnitId, UnitKind};
use zolvik_patch::sound::Sound;

fn sine(frames: usize, channels: usize) -> Vec<f32> {
    let turn = std::f64::consts::TAU * 1000.0 / 48_000.0;
    (0..frames)
        .flat_map(|i| {
            let sample = (16_000.0 / 32_768.0 * (turn * i as f64).sin()) as f32;
            std::iter::repeat_n(sample, channels)
        })
        .collect()
}

/// A WAV file of 32 bit floats with any number of channels.
fn floats(samples: &[f32], channels: u16) -> Vec<u8> {
    let mut file = Cursor::new(vec![]);
    let spec = hound::WavSpec {
        channels,
        sample_rate: 48_000,
        bits_per_sample: 32,
        sample_format: hound::SampleFormat::Float,
    };
    let mut writer = hound::WavWriter::new(&mut file, spec).unwrap();
    samples
        .iter()
        .for_each(|s| writer.write_sample(*s).unwrap());
    writer.finalize().unwrap();
    file.into_inner()
}

/// An AIFF file of 16 bit whole numbers, one channel at 48 kHz, chunk by chunk.
fn aiff(samples: &[f32]) -> Vec<u8> {
    let data: Vec<u8> = samples
        .iter()
        .flat_map(|s| ((s * 32_768.0).round() as i16).to_be_bytes())
        .collect();
    let mut common = vec![];
    common.extend(1u16.to_be_bytes());
    common.extend((samples.len() as u32).to_be_bytes());
    common.extend(16u16.to_be_bytes());
    // 48000 as an 80 bit float: 1.46484375 * 2^15
    common.extend([0x40, 0x0E, 0xBB, 0x80, 0, 0, 0, 0, 0, 0]);
    let chunk = |name: &[u8], body: &[u8]| {
        let mut all = name.to_vec();
        all.extend((body.len() as u32).to_be_bytes());
        all.extend(body);
        all
    };
    let mut sound = vec![0; 8];
    sound.extend(data);
    let mut body = b"AIFF".to_vec();
    body.extend(chunk(b"COMM", &common));
    body.extend(chunk(b"SSND", &sound));
    chunk(b"FORM", &body)
}

const FLAC: &[u8] = include_bytes!("recordings/tone.flac");
const OGG: &[u8] = include_bytes!("recordings/tone.ogg");

#[rstest]
#[case::wav(floats(&sine(4800, 2), 2), 1e-6)]
#[case::many_channels(floats(&sine(4800, 16), 16), 1e-6)]
#[case::aiff(aiff(&sine(4800, 1)), 4e-5)]
#[case::flac(FLAC.to_vec(), 4e-5)]
#[case::ogg(OGG.to_vec(), 0.02)]
fn every_kind_comes_in_as_one_channel(#[case] file: Vec<u8>, #[case] within: f32) {
    // renamed on purpose: what it holds counts
    let taken = take(file, "C:\\takes\\Tone one.txt").unwrap();
    assert_eq!(
        (taken.sound.name.as_str(), taken.sound.rate_hz),
        ("Tone one", 48_000)
    );
    assert_eq!(taken.sound.content, content_of(&taken.wav));
    let kept = wav::read(&taken.wav, 10.0).unwrap();
    assert_eq!(kept.samples.len(), taken.sound.frames as usize);
    assert_eq!(kept.samples.len(), 4800);
    for (i, (is, was)) in kept
        .samples
        .iter()
        .zip(sine(4800, 1))
        .enumerate()
        .skip(200)
        .take(4400)
    {
        assert!((is - was).abs() <= within, "sample {i}: {is}, was {was}");
    }
}

/// Lengths around the ends of the blocks a stream is cut into, and a last block of any length.
#[rstest]
#[case::within_one_block(2400)]
#[case::one_block(4096)]
#[case::one_more(4097)]
#[case::a_longer_last_block(2 * 4096 + 4095)]
#[case::as_a_phrase(97_902)]
fn what_goes_out_as_flac_comes_back_in(#[case] frames: usize, #[values(16, 24)] bits: u32) {
    let left = sine(frames, 1);
    let right: Vec<f32> = left.iter().map(|s| -0.5 * s).collect();
    let file = zolvik_files::flac::write(&left, &right, (48_000, bits), &|| true).unwrap();
    // the smallest and the largest block are told alike, without the last (RFC 9639, 8.2)
    assert_eq!(file[8..10], file[10..12]);
    let kept = wav::read(&take(file, "x.flac").unwrap().wav, 10.0).unwrap();
    assert_eq!(kept.samples.len(), frames);
    let step = 1.0 / f32::from(1u16 << 15);
    for (is, was) in kept.samples.iter().zip(&left) {
        assert!((is - 0.25 * was).abs() <= step, "{is}, was {was}");
    }
}

#[test]
fn the_same_recording_is_the_same_content_whatever_it_came_in() {
    let from_wav = take(floats(&sine(4800, 1), 1), "a.wav").unwrap();
    let twice = take(from_wav.wav.clone(), "b.wav").unwrap();
    assert_eq!(from_wav.sound.content, twice.sound.content);
    let two_channels = take(floats(&sine(4800, 2), 2), "c.wav").unwrap();
    assert_eq!(from_wav.sound.content, two_channels.sound.content);
}

#[rstest]
#[case::nothing(vec![], "WAV, AIFF, FLAC, OGG")]
#[case::text(b"{\"format\": 5}".to_vec(), "WAV, AIFF, FLAC, OGG")]
#[case::picture(b"\x89PNG\r\n\x1a\n0123456789abcdef0123456789abcdef".to_vec(), "convert it")]
#[case::silent(floats(&[0.0; 4800], 1), "silent from end to end")]
#[case::one_sample(floats(&[0.5], 1), "has 1 samples")]
#[case::not_a_number(floats(&[vec![0.5; 100], vec![f32::NAN; 100]].concat(), 1), "sample 100")]
#[case::endless(floats(&[vec![0.5; 100], vec![f32::INFINITY]].concat(), 1), "sample 100")]
#[case::channels(floats(&sine(100, 96), 96), "96 channels")]
#[case::cut_wav(floats(&sine(4800, 1), 1)[..9000].to_vec(), "breaks off")]
#[case::cut_flac(FLAC[..6000].to_vec(), "breaks off")]
#[case::cut_aiff(aiff(&sine(4800, 1))[..5000].to_vec(), "breaks off")]
#[case::head_only(floats(&sine(4800, 1), 1)[..30].to_vec(), "breaks off")]
fn faulty_recordings_are_refused_and_told_why(#[case] file: Vec<u8>, #[case] why: &str) {
    let error = take(file, "x.wav").unwrap_err().to_string();
    assert!(error.contains(why), "{error}");
}

#[test]
fn too_long_is_refused_with_its_length() {
    let frames = zolvik_patch::sound::MAX_FRAMES as usize + 48_000;
    let error = take(floats(&sine(frames, 1), 1), "long.wav").unwrap_err();
    assert_eq!(error, RecordingError::Long(121.0));
}

#[test]
fn what_is_beyond_full_scale_is_held() {
    let loud: Vec<f32> = sine(4800, 1).iter().map(|s| s * 1000.0).collect();
    let taken = take(floats(&loud, 1), "loud.wav").unwrap();
    let kept = wav::read(&taken.wav, 10.0).unwrap();
    assert!(kept.samples.iter().all(|s| s.abs() <= 4.0));
}

/// A patch that plays one recording.
fn playing() -> (Patch, HashMap<String, Vec<u8>>) {
    let taken = take(floats(&sine(4800, 1), 1), "tone.wav").unwrap();
    let mut patch = Patch::empty();
    let mut unit = Unit::new(UnitId(2), KindName::Sample);
    unit.kind = UnitKind::Sample(Sample {
        sound: Sound::Own(taken.sound.clone()),
        ..Sample::default()
    });
    patch.units.push(unit);
    (patch, [(taken.sound.content, taken.wav)].into())
}

#[test]
fn a_bundle_comes_back_whole() {
    let (patch, recordings) = playing();
    let whole = packed(&patch, &recordings);
    assert!(bundle::is_bundle(&whole));
    assert_eq!(unpacked(&whole).unwrap(), (patch.clone(), recordings));
    // without the recording the patch still comes, and says what it lacks
    let (lacking, none) = unpacked(&packed(&patch, &HashMap::new())).unwrap();
    assert_eq!((lacking.contents().len(), none.len()), (1, 0));
}

/// As another program may have written it: with a note of its own between the head and the samples.
#[test]
fn any_file_of_the_same_samples_is_taken() {
    let (patch, recordings) = playing();
    let (content, wav) = recordings.iter().next().unwrap();
    let data = wav.windows(4).position(|four| four == b"data").unwrap();
    let mut other = wav[..data].to_vec();
    other.extend(b"LIST\x0c\0\0\0INFOISFT\0\0\0\0");
    other.extend(&wav[data..]);
    let size = (other.len() - 8) as u32;
    other[4..8].copy_from_slice(&size.to_le_bytes());
    assert_ne!(&other, wav);
    let bundle = zip(&[("patch.json", patch_file()), (&named(content), other)]);
    assert_eq!(unpacked(&bundle).unwrap(), (patch, recordings.clone()));
}

/// Packs into memory.
fn packed(patch: &Patch, recordings: &HashMap<String, Vec<u8>>) -> Vec<u8> {
    let mut packed = Cursor::new(vec![]);
    bundle::write(patch, &mut packed, |content| {
        recordings.get(content).cloned()
    })
    .unwrap();
    packed.into_inner()
}

/// Unpacks from memory: the patch and the recordings that were handed on.
fn unpacked(bytes: &[u8]) -> Result<(Patch, HashMap<String, Vec<u8>>), BundleError> {
    let mut recordings = HashMap::new();
    let read = bundle::read(Cursor::new(bytes), &mut |taken| {
        recordings.insert(taken.sound.content, taken.wav);
        Ok::<(), std::convert::Infallible>(())
    });
    let Ok(patch) = read?;
    Ok((patch, recordings))
}

fn zip(files: &[(&str, Vec<u8>)]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(vec![]));
    for (name, bytes) in files {
        let options = zip::write::SimpleFileOptions::default();
        zip.start_file(*name, options).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn patch_file() -> Vec<u8> {
    zolvik_patch::json::write(&playing().0).into_bytes()
}

fn named(content: &str) -> String {
    format!("audio/{content}.wav")
}

#[rstest]
#[case::out_of_its_folder("../../etc/passwd")]
#[case::absolute("/etc/passwd")]
#[case::inside("audio/../../x.wav")]
#[case::backslash("audio\\..\\x.wav")]
#[case::short_name("audio/1234.wav")]
#[case::stranger("readme.txt")]
fn a_bundle_with_strangers_is_refused_whole(#[case] name: &str) {
    let error = unpacked(&zip(&[("patch.json", patch_file()), (name, b"x".to_vec())])).unwrap_err();
    assert!(
        matches!(&error, BundleError::Stranger(stranger) if stranger.contains(&name[..4])),
        "{error}"
    );
}

#[test]
fn a_bundle_that_expands_without_end_is_stopped() {
    // 260 MB of zeros pack to less than a megabyte
    let content = "0".repeat(64);
    let bomb = zip(&[
        ("patch.json", patch_file()),
        (&named(&content), vec![0; 260 << 20]),
    ]);
    assert!(bomb.len() < 2 << 20);
    let error = unpacked(&bomb).unwrap_err();
    assert!(matches!(error, BundleError::Huge(_)), "{error}");
    let long_text = zip(&[("patch.json", vec![b' '; 9 << 20])]);
    assert!(matches!(
        unpacked(&long_text).unwrap_err(),
        BundleError::Huge(8)
    ));
}

#[test]
fn changed_or_faulty_recordings_and_patches_in_a_bundle_are_refused() {
    let (_, recordings) = playing();
    let (content, wav) = recordings.into_iter().next().unwrap();
    let mut changed = wav.clone();
    *changed.last_mut().unwrap() ^= 1;
    let error = unpacked(&zip(&[
        ("patch.json", patch_file()),
        (&named(&content), changed),
    ]));
    assert!(matches!(error.unwrap_err(), BundleError::Changed(_)));
    let text = b"no recording at all, but rightly named".to_vec();
    let error = unpacked(&zip(&[
        ("patch.json", patch_file()),
        (&named(&content_of(&text)), text),
    ]));
    assert!(matches!(error.unwrap_err(), BundleError::Recording { .. }));
    assert!(matches!(
        unpacked(&zip(&[])).unwrap_err(),
        BundleError::NoPatch
    ));
    let error = unpacked(&zip(&[("patch.json", b"{\"format\": 5}".to_vec())])).unwrap_err();
    assert!(error.to_string().contains("not valid"), "{error}");
    let whole = packed(&playing().0, &HashMap::new());
    let error = unpacked(&whole[..whole.len() / 2]).unwrap_err();
    assert!(error.to_string().contains("no bundle"), "{error}");
    let many: Vec<(String, Vec<u8>)> = (0..80).map(|n| (format!("{n}"), vec![])).collect();
    let many: Vec<(&str, Vec<u8>)> = many.iter().map(|(n, b)| (n.as_str(), b.clone())).collect();
    assert!(matches!(
        unpacked(&zip(&many)).unwrap_err(),
        BundleError::Stranger(_)
    ));
}

/// A ZIP file in which two files have the same name, which no ordinary writer makes.
fn with_twins(first: &[u8], second: &[u8]) -> Vec<u8> {
    let mut bytes = zip(&[
        ("patch.json", first.to_vec()),
        ("patch.jsom", second.to_vec()),
    ]);
    let places: Vec<usize> = bytes
        .windows(10)
        .enumerate()
        .filter(|(_, w)| *w == b"patch.jsom")
        .map(|(at, _)| at)
        .collect();
    assert_eq!(places.len(), 2, "in its head and in the list at the end");
    for at in places {
        bytes[at..at + 10].copy_from_slice(b"patch.json");
    }
    bytes
}

#[test]
fn a_bundle_with_two_patches_is_refused() {
    let error = unpacked(&with_twins(&patch_file(), b"{}")).unwrap_err();
    // the reader sees one name once: the other patch hides after it
    assert!(matches!(error, BundleError::Twice(_)), "{error}");
}

#[test]
fn a_recording_whose_writer_left_its_length_open_comes_in() {
    let good = floats(&sine(4800, 1), 1);
    let data = good.windows(4).position(|w| w == b"data").unwrap() + 4;
    let mut open = good.clone();
    open[4..8].fill(0xff);
    open[data..data + 4].fill(0xff);
    let taken = take(open, "stream.wav").unwrap();
    assert_eq!(
        taken.sound.content,
        take(good, "whole.wav").unwrap().sound.content
    );
}
