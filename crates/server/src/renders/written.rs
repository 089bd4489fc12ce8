//! How files are written, and why one is not.

use serde::{Deserialize, Serialize};
use std::path::Path;
use utoipa::ToSchema;
use zip::result::ZipError;
use zolvik_files::flac::{self, FlacError};
use zolvik_files::wav::{self, WavError};
use zolvik_json::outside::visible;
use zolvik_lab::Rendered;
use zolvik_lab::batch::BatchError;

/// Why something is not rendered.
#[derive(Debug, thiserror::Error)]
pub enum RenderError {
    /// The batch is none.
    #[error(transparent)]
    Batch(#[from] BatchError),
    /// WAV cannot be written like this.
    #[error(transparent)]
    Wav(#[from] WavError),
    /// FLAC cannot be written like this.
    #[error(transparent)]
    Flac(#[from] FlacError),
    /// The ending of a file's name says no kind that is written.
    #[error("files ending in .{0} are not written; give the name .wav or .flac at its end")]
    Ending(String),
    /// There is no room to write.
    #[error("the disk is full; make room on it, then go on")]
    Full,
    /// It cannot be written.
    #[error("the disk failed ({0})")]
    Disk(std::io::Error),
    /// It cannot be packed.
    #[error("the files cannot be packed: {0}")]
    Zip(ZipError),
    /// It was given up.
    #[error("stopped")]
    Stopped,
}

impl From<std::io::Error> for RenderError {
    fn from(error: std::io::Error) -> Self {
        match error.kind() {
            std::io::ErrorKind::StorageFull => RenderError::Full,
            _ => RenderError::Disk(error),
        }
    }
}

impl From<ZipError> for RenderError {
    fn from(error: ZipError) -> Self {
        match error {
            ZipError::Io(error) => error.into(),
            error => RenderError::Zip(error),
        }
    }
}

/// How files are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Format {
    /// WAV.
    Wav,
    /// FLAC.
    Flac,
}

/// How files are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Written {
    /// WAV or FLAC.
    pub format: Format,
    /// 16, 24 or, of WAV, 32 (float).
    pub bits: u32,
    /// Sample rate in hertz.
    pub rate_hz: u32,
}

impl Written {
    /// The ending of a file's name.
    pub fn ending(self) -> &'static str {
        match self.format {
            Format::Wav => "wav",
            Format::Flac => "flac",
        }
    }

    /// Whether it can be written like this, before anything is rendered.
    ///
    /// # Errors
    /// What cannot be.
    pub fn check(self) -> Result<(), RenderError> {
        match self.format {
            Format::Wav => drop(wav::Depth::try_from(self.bits)?),
            Format::Flac => flac::takes(self.bits)?,
        }
        Ok(())
    }

    /// The kind a file's name says: WAV where it says none.
    ///
    /// # Errors
    /// If it says one that is not written.
    pub fn named(path: &Path) -> Result<Format, RenderError> {
        let ending = path.extension().unwrap_or_default().to_string_lossy();
        match ending.to_ascii_lowercase().as_str() {
            "" | "wav" | "wave" => Ok(Format::Wav),
            "flac" => Ok(Format::Flac),
            _ => Err(RenderError::Ending(visible(&ending, 20))),
        }
    }

    /// A sound as the bytes of a file; what is given up meanwhile is cut short.
    ///
    /// # Errors
    /// Why not.
    pub fn bytes(self, sound: &Rendered, go_on: &dyn Fn() -> bool) -> Result<Vec<u8>, RenderError> {
        let (left, right) = (&sound.left, &sound.right);
        Ok(match self.format {
            Format::Wav => {
                let depth = wav::Depth::try_from(self.bits)?;
                wav::write(left, right, self.rate_hz, depth)?
            }
            Format::Flac => flac::write(left, right, (self.rate_hz, self.bits), go_on)?,
        })
    }
}
