//! FLAC files (Free Lossless Audio Codec, RFC 9639, 2024), out.

use flacenc::bitsink::ByteSink;
use flacenc::component::BitRepr;
use flacenc::error::{SourceError, Verify};
use flacenc::source::{Fill, MemSource, Source};

/// Why a file could not be written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FlacError {
    /// FLAC holds whole numbers of 16 or 24 bits here.
    #[error("FLAC is written with 16 or 24 bits, not {actual}; choose one of them, or WAV")]
    Bits {
        /// Bits asked for.
        actual: u32,
    },
    /// The encoder refused.
    #[error("FLAC cannot be written: {0}")]
    Encoder(String),
}

/// Whether FLAC is written with so many bits here.
///
/// # Errors
/// If they are not 16 or 24.
pub fn takes(bits: u32) -> Result<(), FlacError> {
    match bits {
        16 | 24 => Ok(()),
        actual => Err(FlacError::Bits { actual }),
    }
}

/// Samples that end early where they are given up.
struct While<'a> {
    samples: MemSource,
    go_on: &'a dyn Fn() -> bool,
}

impl Source for While<'_> {
    fn channels(&self) -> usize {
        self.samples.channels()
    }
    fn bits_per_sample(&self) -> usize {
        self.samples.bits_per_sample()
    }
    fn sample_rate(&self) -> usize {
        self.samples.sample_rate()
    }
    fn read_samples<F: Fill>(&mut self, size: usize, into: &mut F) -> Result<usize, SourceError> {
        match (self.go_on)() {
            true => self.samples.read_samples(size, into),
            false => Ok(0),
        }
    }
    fn len_hint(&self) -> Option<usize> {
        self.samples.len_hint()
    }
}

/// Writes two channels. Samples beyond full scale are cut to it. What is given up meanwhile ends early.
///
/// # Errors
/// If the bits are not 16 or 24.
pub fn write(
    left: &[f32],
    right: &[f32],
    (rate_hz, bits): (u32, u32),
    go_on: &dyn Fn() -> bool,
) -> Result<Vec<u8>, FlacError> {
    takes(bits)?;
    let full = f64::from((1 << (bits - 1)) - 1);
    let whole = |sample: f32| (f64::from(sample) * full).round().clamp(-full - 1.0, full) as i32;
    let pairs = left.iter().zip(right);
    let samples: Vec<i32> = pairs.flat_map(|(l, r)| [whole(*l), whole(*r)]).collect();
    let failed = |e: &dyn std::fmt::Debug| FlacError::Encoder(format!("{e:?}"));
    let config = flacenc::config::Encoder::default()
        .into_verified()
        .map_err(|(_, e)| failed(&e))?;
    let samples = MemSource::from_samples(&samples, 2, bits as usize, rate_hz as usize);
    let source = While { samples, go_on };
    let block = config.block_size;
    let mut stream =
        flacenc::encode_with_fixed_block_size(&config, source, block).map_err(|e| failed(&e))?;
    // the last block may be shorter and does not count (RFC 9639, 8.2); with it counted the stream would say
    // its blocks vary, and readers look for another kind of frame
    let told = stream.stream_info_mut().set_block_sizes(block, block);
    told.map_err(|e| failed(&e))?;
    let mut sink = ByteSink::new();
    stream.write(&mut sink).map_err(|e| failed(&e))?;
    Ok(sink.into_inner())
}
