//! Recordings in: WAV, FLAC, AIFF and OGG Vorbis, recognised by what they hold, whatever they are called.

use std::io::Cursor;

use sha2::{Digest, Sha256};
use symphonia::core::codecs::audio::AudioDecoderOptions;
use symphonia::core::errors::Error;
use symphonia::core::formats::probe::Hint;
use symphonia::core::formats::{FormatOptions, TrackType};
use symphonia::core::io::{MediaSourceStream, MediaSourceStreamOptions};
use symphonia::core::meta::MetadataOptions;
use zolvik_patch::sound::{MAX_FRAMES, OwnSound, RATES_HZ};
use zolvik_patch::validate::MAX_UNIT_NAME;

use crate::wav;

/// Largest file read, in bytes.
pub const MAX_BYTES: usize = 64 << 20;
/// Most channels that are mixed.
pub const MAX_CHANNELS: usize = 16;
/// Fewest samples worth playing.
pub const MIN_FRAMES: usize = 32;
/// Below this peak there is nothing to hear.
const SILENCE: f32 = 1e-5;

/// Why a recording was not taken. Nothing was kept of it.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum RecordingError {
    /// It is none of the kinds that are read.
    #[error(
        "this is not an audio file Zolvik can read (WAV, AIFF, FLAC, OGG); convert it to one of them first"
    )]
    Kind(String),
    /// It breaks off or holds nonsense.
    #[error("the file breaks off or is damaged after {0} samples; save or download it again")]
    Broken(usize),
    /// It has too few samples.
    #[error("the file has {0} samples; a recording needs at least {MIN_FRAMES}")]
    Short(usize),
    /// It has too many.
    #[error("the recording lasts {0:.0} s, two minutes at 48 kHz are kept at most; cut it first")]
    Long(f64),
    /// Nothing can be heard in it.
    #[error("the recording is silent from end to end; choose another")]
    Silent,
    /// Some samples are no numbers.
    #[error("sample {0} of the recording is no number; save it again as whole numbers")]
    NoNumber(usize),
    /// It has too many channels.
    #[error(
        "the file has {0} channels, at most {MAX_CHANNELS} are mixed to one; save the ones you want by themselves"
    )]
    Channels(usize),
    /// Its sample rate makes no sense here.
    #[error("the file has {0} samples a second; rates from 4000 to 192000 are read")]
    Rate(u32),
}

/// A recording ready to be kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Taken {
    /// As patches name it.
    pub sound: OwnSound,
    /// The file it is kept as: one channel of 32 bit floats.
    pub wav: Vec<u8>,
}

/// SHA-256 of a file, as 64 hexadecimal digits.
pub fn content_of(bytes: &[u8]) -> String {
    Sha256::digest(bytes)
        .iter()
        .map(|byte| format!("{byte:02x}"))
        .collect()
}

/// Reads a recording of any of the kinds, mixes its channels to one and checks it.
///
/// # Errors
/// What is wrong with it and what to do.
pub fn take(bytes: Vec<u8>, file_name: &str) -> Result<Taken, RecordingError> {
    let mut bytes = bytes;
    wav::close_length(&mut bytes);
    refuse_many_channels(&bytes)?;
    // readers of foreign files have been seen to panic over headers that make no sense
    let decoded = std::panic::catch_unwind(|| decode(bytes));
    let senseless = |_| RecordingError::Kind("its header makes no sense".into());
    let (samples, rate_hz) = decoded.map_err(senseless)??;
    if let Some(at) = samples.iter().position(|s| !s.is_finite()) {
        return Err(RecordingError::NoNumber(at));
    }
    if samples.len() < MIN_FRAMES {
        return Err(RecordingError::Short(samples.len()));
    }
    if samples.iter().all(|s| s.abs() < SILENCE) {
        return Err(RecordingError::Silent);
    }
    // beyond full scale it would only be loud
    let mut samples = samples;
    samples.iter_mut().for_each(|s| *s = s.clamp(-4.0, 4.0));
    let wav =
        wav::write_mono(&samples, rate_hz).map_err(|e| RecordingError::Kind(e.to_string()))?;
    Ok(Taken {
        sound: OwnSound {
            content: content_of(&wav),
            name: name_of(file_name),
            frames: samples.len() as u32,
            rate_hz,
        },
        wav,
    })
}

fn refuse_many_channels(bytes: &[u8]) -> Result<(), RecordingError> {
    match hound::WavReader::new(Cursor::new(bytes)) {
        Ok(reader) if usize::from(reader.spec().channels) > MAX_CHANNELS => {
            Err(RecordingError::Channels(reader.spec().channels.into()))
        }
        _ => Ok(()),
    }
}

/// Whether a file begins like one of the kinds that are read.
fn is_known(bytes: &[u8]) -> bool {
    let beginnings: [&[u8]; 4] = [b"RIFF", b"FORM", b"fLaC", b"OggS"];
    beginnings.iter().any(|b| bytes.starts_with(b))
}

fn name_of(file_name: &str) -> String {
    let file = file_name.rsplit(['/', '\\']).next().unwrap_or("");
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let kept: String = stem.chars().filter(|c| !c.is_control()).collect();
    let name: String = kept.trim().chars().take(MAX_UNIT_NAME).collect();
    if name.is_empty() {
        "Recording".into()
    } else {
        name
    }
}

fn decode(bytes: Vec<u8>) -> Result<(Vec<f32>, u32), RecordingError> {
    let known = is_known(&bytes);
    let kind = |e: Error| match e {
        Error::IoError(_) if known => RecordingError::Broken(0),
        e => RecordingError::Kind(e.to_string()),
    };
    let source = Box::new(Cursor::new(bytes));
    let stream = MediaSourceStream::new(source, MediaSourceStreamOptions::default());
    let mut format = symphonia::default::get_probe()
        .probe(
            &Hint::new(),
            stream,
            FormatOptions::default(),
            MetadataOptions::default(),
        )
        .map_err(kind)?;
    let no_audio = || RecordingError::Kind("it holds no audio".into());
    let track = format
        .default_track(TrackType::Audio)
        .ok_or_else(no_audio)?;
    let (id, promised) = (track.id, track.num_frames);
    let params = track.codec_params.as_ref().and_then(|p| p.audio());
    let params = params.ok_or_else(no_audio)?.clone();
    let rate_hz = params.sample_rate.unwrap_or(0);
    if !(RATES_HZ.0..=RATES_HZ.1).contains(&rate_hz) {
        return Err(RecordingError::Rate(rate_hz));
    }
    if let Some(channels) = params.channels.as_ref().map(|c| c.count())
        && channels > MAX_CHANNELS
    {
        return Err(RecordingError::Channels(channels));
    }
    let too_long = |frames: u64| RecordingError::Long(frames as f64 / f64::from(rate_hz));
    if let Some(frames) = promised.filter(|n| *n > u64::from(MAX_FRAMES)) {
        return Err(too_long(frames));
    }
    let mut decoder = symphonia::default::get_codecs()
        .make_audio_decoder(&params, &AudioDecoderOptions::default())
        .map_err(kind)?;
    let (mut mixed, mut samples): (Vec<f32>, Vec<f32>) = (vec![], vec![]);
    loop {
        let packet = match format.next_packet() {
            Ok(Some(packet)) => packet,
            Ok(None) => break,
            Err(_) => return Err(RecordingError::Broken(mixed.len())),
        };
        if packet.track_id != id {
            continue;
        }
        let Ok(buffer) = decoder.decode(&packet) else {
            return Err(RecordingError::Broken(mixed.len()));
        };
        let channels = buffer.spec().channels().count().max(1);
        if channels > MAX_CHANNELS {
            return Err(RecordingError::Channels(channels));
        }
        samples.resize(buffer.samples_interleaved(), 0.0);
        buffer.copy_to_slice_interleaved(&mut samples);
        let mix = |frame: &[f32]| frame.iter().sum::<f32>() / channels as f32;
        mixed.extend(samples.chunks_exact(channels).map(mix));
        if mixed.len() > MAX_FRAMES as usize {
            return Err(too_long(mixed.len() as u64));
        }
    }
    match promised {
        Some(frames) if (mixed.len() as u64) < frames => Err(RecordingError::Broken(mixed.len())),
        _ => Ok((mixed, rate_hz)),
    }
}
