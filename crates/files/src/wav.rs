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
