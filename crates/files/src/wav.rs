//! WAV files.

use std::io::Cursor;

use hound::{SampleFormat, WavSpec, WavWriter};

/// How samples are stored.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// 16 bit whole numbers.
    Int16,
    /// 24 bit whole numbers.
    Int24,
    /// 32 bit floating point: the engine's own bits, nothing is cut off above full scale.
    Float32,
}

/// Why no file was written.
#[derive(Debug, thiserror::Error)]
pub enum WavError {
    /// The depth asked for is none of 16, 24, 32.
    #[error("a depth of {0} bit is not written; choose 16, 24 or 32")]
    Depth(u32),
    /// The writer failed.
    #[error("the WAV file could not be written: {0}")]
    Write(#[from] hound::Error),
}

impl TryFrom<u32> for Depth {
    type Error = WavError;

    fn try_from(bits: u32) -> Result<Self, WavError> {
        match bits {
            16 => Ok(Depth::Int16),
            24 => Ok(Depth::Int24),
            32 => Ok(Depth::Float32),
            _ => Err(WavError::Depth(bits)),
        }
    }
}

/// Writes a stereo WAV file into memory. Whole-number depths round to the nearest step and hold at full
/// scale.
///
/// # Errors
/// If the file would be larger than the format allows (4 GiB).
pub fn write(left: &[f32], right: &[f32], rate_hz: u32, depth: Depth) -> Result<Vec<u8>, WavError> {
    let (bits, format) = match depth {
        Depth::Int16 => (16, SampleFormat::Int),
        Depth::Int24 => (24, SampleFormat::Int),
        Depth::Float32 => (32, SampleFormat::Float),
    };
    let spec = WavSpec {
        channels: 2,
        sample_rate: rate_hz,
        bits_per_sample: bits,
        sample_format: format,
    };
    let mut file = Cursor::new(Vec::new());
    let mut writer = WavWriter::new(&mut file, spec)?;
    let full = f64::from(1u32 << (bits - 1).min(30));
    for sample in left.iter().zip(right).flat_map(|(l, r)| [*l, *r]) {
        match depth {
            Depth::Float32 => writer.write_sample(sample)?,
            _ => writer
                .write_sample((f64::from(sample) * full).round().clamp(-full, full - 1.0) as i32)?,
        }
    }
    writer.finalize()?;
    Ok(file.into_inner())
}

/// Writes one channel as 32 bit floats: samples come back as they were.
///
/// # Errors
/// If the file would be too large.
pub fn write_mono(samples: &[f32], rate_hz: u32) -> Result<Vec<u8>, WavError> {
    let mut file = Cursor::new(Vec::with_capacity(64 + 4 * samples.len()));
    let spec = WavSpec {
        channels: 1,
        sample_rate: rate_hz,
        bits_per_sample: 32,
        sample_format: SampleFormat::Float,
    };
    let mut writer = WavWriter::new(&mut file, spec)?;
    for sample in samples {
        writer.write_sample(*sample)?;
    }
    writer.finalize()?;
    Ok(file.into_inner())
}

/// A recording as it comes in, mixed to one channel.
#[derive(Debug, Clone, PartialEq)]
pub struct Recording {
    /// Samples, -1 to 1 where the file keeps to full scale.
    pub samples: Vec<f32>,
    /// Sample rate in hertz.
    pub rate_hz: f64,
}

/// Why a recording was not read.
#[derive(Debug, thiserror::Error)]
pub enum ReadError {
    /// It is no WAV file, or a kind that is not read.
    #[error("this is no WAV file of whole numbers or 32 bit floats ({0}); save it as WAV first")]
    Kind(String),
    /// It ends early or holds nonsense.
    #[error("the WAV file breaks off or is damaged after {0} samples")]
    Broken(usize),
    /// It has no sound.
    #[error("the WAV file is empty")]
    Empty,
    /// It lasts too long for what it is wanted for.
    #[error(
        "the recording lasts {actual_s:.0} s, {most_s:.0} s are read at most; shorten it first"
    )]
    Long {
        /// Its length in seconds.
        actual_s: f64,
        /// The most that is read.
        most_s: f64,
    },
}

/// Looks at the beginning of a WAV file: whether it will be read, and is no longer than wanted.
///
/// # Errors
/// What is wrong with it. A file that breaks off is only found by [`read`].
pub fn look(beginning: &[u8], most_s: f64) -> Result<(), ReadError> {
    if open_length(beginning).is_some() {
        return Ok(()); // how long it is, is seen when it is read
    }
    let reader = open(beginning)?;
    let actual_s = f64::from(reader.duration()) / f64::from(reader.spec().sample_rate.max(1));
    if actual_s > most_s {
        return Err(ReadError::Long { actual_s, most_s });
    }
    Ok(())
}

/// Where the sound of a WAV file begins, and its length as it stands after it, if a writer that did not know it yet left it open:
/// recorders and pipes write the head first and never come back to it.
pub fn open_length(bytes: &[u8]) -> Option<(usize, u32)> {
    const OPEN: [u32; 2] = [0, u32::MAX];
    let word = |at: usize| Some(u32::from_le_bytes(*bytes.get(at..)?.first_chunk()?));
    if !bytes.starts_with(b"RIFF") || bytes.get(8..12)? != b"WAVE" || !OPEN.contains(&word(4)?) {
        return None;
    }
    let (mut at, mut frame_bytes) = (12, 1);
    loop {
        let (name, size) = (bytes.get(at..at + 4)?, word(at + 4)?);
        at += 8;
        match name {
            b"data" if OPEN.contains(&size) => {
                let rest = bytes.len() - at;
                return Some((at, (rest - rest % frame_bytes) as u32));
            }
            b"data" => return None,
            b"fmt " => {
                let bytes_a_frame = *bytes.get(at + 12..)?.first_chunk()?;
                frame_bytes = usize::from(u16::from_le_bytes(bytes_a_frame)).max(1);
            }
            _ => {}
        }
        at = at.checked_add(size as usize)? + (size as usize & 1);
    }
}

/// Writes the length into the head of a WAV file that was left open.
pub fn close_length(bytes: &mut [u8]) {
    if let Some((at, length)) = open_length(bytes) {
        bytes[at - 4..at].copy_from_slice(&length.to_le_bytes());
        let whole = (bytes.len() as u64 - 8).min(u64::from(u32::MAX)) as u32;
        bytes[4..8].copy_from_slice(&whole.to_le_bytes());
    }
}

/// Reads a WAV file of any number of channels and mixes them to one.
///
/// # Errors
/// What is wrong with it.
pub fn read(bytes: &[u8], most_s: f64) -> Result<Recording, ReadError> {
    let closed;
    let bytes = match open_length(bytes) {
        Some(_) => {
            let mut copy = bytes.to_vec();
            close_length(&mut copy);
            closed = copy;
            &closed
        }
        None => bytes,
    };
    look(bytes, most_s)?;
    let mut reader = open(bytes)?;
    let spec = reader.spec();
    let all: Vec<f32> = match spec.sample_format {
        SampleFormat::Float => collect(reader.samples::<f32>(), |s| s)?,
        SampleFormat::Int => {
            let full = (1u64 << (spec.bits_per_sample - 1)) as f32;
            collect(reader.samples::<i32>(), |s| s as f32 / full)?
        }
    };
    let channels = usize::from(spec.channels.max(1));
    let mix = |frame: &[f32]| frame.iter().sum::<f32>() / channels as f32;
    let samples: Vec<f32> = all.chunks_exact(channels).map(mix).collect();
    if samples.is_empty() {
        return Err(ReadError::Empty);
    }
    Ok(Recording {
        samples,
        rate_hz: spec.sample_rate.into(),
    })
}

fn open(bytes: &[u8]) -> Result<hound::WavReader<Cursor<&[u8]>>, ReadError> {
    let reader =
        hound::WavReader::new(Cursor::new(bytes)).map_err(|e| ReadError::Kind(e.to_string()))?;
    let spec = reader.spec();
    if spec.sample_rate == 0 || !(1..=32).contains(&spec.bits_per_sample) {
        return Err(ReadError::Kind("its header makes no sense".into()));
    }
    Ok(reader)
}

fn collect<S>(
    samples: impl Iterator<Item = Result<S, hound::Error>>,
    read: impl Fn(S) -> f32,
) -> Result<Vec<f32>, ReadError> {
    let mut all = vec![];
    for sample in samples {
        match sample {
            Ok(sample) => all.push(read(sample)),
            Err(_) => return Err(ReadError::Broken(all.len())),
        }
    }
    Ok(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[rstest::rstest]
    #[case::cd(Depth::Int16, 1.0 / 32_768.0)]
    #[case::studio(Depth::Int24, 1.0 / 8_388_608.0)]
    #[case::exact(Depth::Float32, 0.0)]
    fn samples_come_back_within_half_a_step(#[case] depth: Depth, #[case] step: f32) {
        let left: Vec<f32> = (0..1000).map(|i| (i as f32 * 0.1).sin() * 0.999).collect();
        let right: Vec<f32> = left.iter().map(|s| -s).collect();
        let bytes = write(&left, &right, 44_100, depth).unwrap();
        let mut reader = hound::WavReader::new(Cursor::new(bytes)).unwrap();
        let spec = reader.spec();
        assert_eq!((spec.channels, spec.sample_rate), (2, 44_100));
        let back: Vec<f32> = match spec.sample_format {
            SampleFormat::Float => reader.samples::<f32>().map(Result::unwrap).collect(),
            SampleFormat::Int => reader
                .samples::<i32>()
                .map(|s| s.unwrap() as f32 * step)
                .collect(),
        };
        for (i, pair) in back.chunks(2).enumerate() {
            assert!(
                (pair[0] - left[i]).abs() <= step * 0.51
                    && (pair[1] - right[i]).abs() <= step * 0.51,
                "frame {i}"
            );
        }
    }

    #[rstest::rstest]
    #[case(Depth::Int16, 4e-5)]
    #[case(Depth::Int24, 2e-7)]
    #[case(Depth::Float32, 0.0)]
    fn what_was_written_is_read_as_one_channel(#[case] depth: Depth, #[case] step: f32) {
        let left: Vec<f32> = (0..500).map(|i| (i as f32 * 0.1).sin() * 0.9).collect();
        let right = vec![0.0; 500];
        let read = read(&write(&left, &right, 22_050, depth).unwrap(), 60.0).unwrap();
        assert_eq!(read.rate_hz, 22_050.0);
        assert!(
            left.iter()
                .zip(&read.samples)
                .all(|(a, b)| (a * 0.5 - b).abs() <= step)
        );
    }

    #[test]
    fn faulty_recordings_say_what_is_wrong() {
        let good = write(&[0.1; 900], &[0.1; 900], 48_000, Depth::Int24).unwrap();
        let why = |bytes: &[u8], most_s| read(bytes, most_s).unwrap_err().to_string();
        assert!(why(b"", 60.0).contains("no WAV"));
        assert!(why(b"{\"format\": 2}", 60.0).contains("no WAV"));
        assert!(why(&good[..good.len() - 700], 60.0).contains("damaged after"));
        assert!(why(&good, 0.001).contains("shorten it"));
        let empty = write(&[], &[], 48_000, Depth::Int16).unwrap();
        assert!(why(&empty, 60.0).contains("empty"));
        // ten minutes are recognised by the first kilobyte
        let minutes = write(
            &vec![0.0; 600 * 8000],
            &vec![0.0; 600 * 8000],
            8000,
            Depth::Int16,
        );
        let why = look(&minutes.unwrap()[..1024], 60.0)
            .unwrap_err()
            .to_string();
        assert!(why.contains("600 s"), "{why}");
    }

    #[rstest::rstest]
    #[case::recorder(0)]
    #[case::pipe(u32::MAX)]
    fn a_length_left_open_is_found(#[case] open: u32) {
        let good = write(&[0.1; 900], &[0.1; 900], 48_000, Depth::Int24).unwrap();
        let data = good.windows(4).position(|w| w == b"data").unwrap() + 4;
        let mut left_open = good.clone();
        left_open[4..8].copy_from_slice(&open.to_le_bytes());
        left_open[data..data + 4].copy_from_slice(&open.to_le_bytes());
        assert_eq!(read(&left_open, 60.0).unwrap(), read(&good, 60.0).unwrap());
        assert!(look(&left_open[..200], 60.0).is_ok());
        // half a frame at the end is no frame
        left_open.truncate(left_open.len() - 2);
        assert_eq!(read(&left_open, 60.0).unwrap().samples.len(), 899);
        // a length that is told and not there is still a fault
        assert!(read(&good[..good.len() - 60], 60.0).is_err());
        for cut in 0..80 {
            let _ = read(&left_open[..cut], 60.0);
        }
    }

    #[test]
    fn too_loud_holds_at_full_scale_instead_of_wrapping() {
        let bytes = write(&[2.0, -2.0], &[0.0, 0.0], 48_000, Depth::Int16).unwrap();
        let mut reader = hound::WavReader::new(Cursor::new(bytes)).unwrap();
        let samples: Vec<i32> = reader.samples::<i32>().map(Result::unwrap).collect();
        assert_eq!(samples, [32_767, 0, -32_768, 0]);
    }

    #[test]
    fn file_names_are_safe() {
        assert_eq!(
            crate::file_name("../Frost Fern / 2", "wav"),
            "frost-fern-2.wav"
        );
        assert_eq!(crate::file_name("???", "json"), "patch.json");
    }
}
