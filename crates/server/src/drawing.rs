//! The small picture of a sound as PNG: black ink whose opacity is the level, so that the page can show it in
//! the ink of either theme.

use zolvik_lab::thumbnail::{HEIGHT, WIDTH, thumbnail};
use zolvik_patch::Patch;
use zolvik_waves::Clips;

/// The picture of a patch.
///
/// # Errors
/// If the encoder fails, which it does not for these fixed sizes.
pub(crate) fn png(patch: &Patch, clips: &dyn Clips) -> Result<Vec<u8>, png::EncodingError> {
    let ink: Vec<u8> = thumbnail(patch, clips)
        .into_iter()
        .flat_map(|level| [0, level])
        .collect();
    let mut file = Vec::new();
    let mut encoder = png::Encoder::new(&mut file, WIDTH as u32, HEIGHT as u32);
    encoder.set_color(png::ColorType::GrayscaleAlpha);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.write_header()?.write_image_data(&ink)?;
    Ok(file)
}
