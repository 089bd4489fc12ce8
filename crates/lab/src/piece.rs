//! A render in pieces: what one thread has rendered since the last piece, for another to draw.

use thiserror::Error;
use zolvik_engine::BLOCK;
use zolvik_patch::document::UnitId;

use crate::render::Run;
use crate::rendered::{Rendered, Tapped};

/// Bytes that are no piece of the render at hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
#[error("these bytes are no piece of this render")]
pub struct NoPiece;

/// Counts at the head of a piece: frames, blocks, units, sources, links, frames and blocks of the effect that is looked at.
const HEAD: usize = 7;

/// How far pieces were taken.
#[derive(Debug, Clone, Copy, Default)]
pub struct Taken {
    frames: usize,
    blocks: usize,
    seen: usize,
    gains: usize,
}

/// What is new since what was taken, as 32 bit words in little-endian order.
pub fn piece(run: &Run, taken: &mut Taken) -> Vec<u8> {
    let sound = run.sound();
    let blocks = sound
        .amplitudes
        .iter()
        .chain(&sound.places)
        .chain(&sound.motions);
    let blocks = blocks.map(Vec::len).max().unwrap_or(0);
    let (seen, skip) = match run.seen() {
        Some((seen, skip)) => (Some(seen), skip),
        None => (None, 0),
    };
    let seen_end = seen.map_or(0, |s| s.before[0].len());
    let gains_end = seen.map_or(0, |s| s.gain_db.len());
    let seen_from = taken.seen.max(skip).min(seen_end);
    let gains_from = taken.gains.max(skip / BLOCK).min(gains_end);
    let head = [
        sound.left.len() - taken.frames,
        blocks - taken.blocks,
        sound.units.len(),
        sound.places.len(),
        sound.motions.len(),
        seen_end - seen_from,
        gains_end - gains_from,
    ];
    let mut words: Vec<u32> = head.iter().map(|n| *n as u32).collect();
    words.extend(sound.units.iter().map(|id| u32::from(id.0)));
    let mut put = |values: &[f32]| words.extend(values.iter().map(|v| v.to_bits()));
    put(&sound.left[taken.frames..]);
    put(&sound.right[taken.frames..]);
    for curve in sound
        .amplitudes
        .iter()
        .chain(&sound.places)
        .chain(&sound.motions)
    {
        put(&curve[taken.blocks..]);
    }
    if let Some(seen) = seen {
        for channel in seen.before.iter().chain(&seen.after) {
            put(&channel[seen_from..]);
        }
        put(&seen.gain_db[gains_from..]);
    }
    *taken = Taken {
        frames: sound.left.len(),
        blocks,
        seen: seen_end,
        gains: gains_end,
    };
    words.iter().flat_map(|word| word.to_le_bytes()).collect()
}

/// Adds a piece to what there is. Gives how many frames are new.
///
/// # Errors
/// [`NoPiece`] if the bytes do not fit; then nothing was added.
pub fn add(sound: &mut Rendered, bytes: &[u8]) -> Result<usize, NoPiece> {
    let words = bytes
        .chunks_exact(4)
        .map(|b| u32::from_le_bytes([b[0], b[1], b[2], b[3]]));
    let words: Vec<u32> = words.collect();
    let (head, mut rest) = words.split_at_checked(HEAD).ok_or(NoPiece)?;
    let [frames, blocks, units, sources, links, seen, gains] =
        [0, 1, 2, 3, 4, 5, 6].map(|n| head[n] as usize);
    let begins = sound.left.is_empty() && sound.units.is_empty();
    let fits = begins
        || [units, sources, links] == [sound.units.len(), sound.places.len(), sound.motions.len()];
    let curves = units.saturating_add(sources).saturating_add(links);
    let needed = curves.saturating_mul(blocks).saturating_add(units);
    let needed = needed.saturating_add(frames.saturating_mul(2));
    let needed = needed
        .saturating_add(seen.saturating_mul(4))
        .saturating_add(gains);
    if !fits || rest.len() != needed {
        return Err(NoPiece);
    }
    let mut take = |count: usize| {
        let (now, then) = rest.split_at(count);
        rest = then;
        now
    };
    let ids = take(units);
    if begins {
        sound.units = ids.iter().map(|id| UnitId(*id as u16)).collect();
        sound.amplitudes.resize(units, vec![]);
        sound.places.resize(sources, vec![]);
        sound.motions.resize(links, vec![]);
    }
    let mut read = |into: &mut Vec<f32>, count: usize| {
        into.extend(take(count).iter().map(|w| f32::from_bits(*w)))
    };
    read(&mut sound.left, frames);
    read(&mut sound.right, frames);
    for curve in sound
        .amplitudes
        .iter_mut()
        .chain(&mut sound.places)
        .chain(&mut sound.motions)
    {
        read(curve, blocks);
    }
    if seen > 0 || gains > 0 {
        let tapped = sound.tapped.get_or_insert_with(Tapped::default);
        for channel in tapped.before.iter_mut().chain(&mut tapped.after) {
            read(channel, seen);
        }
        read(&mut tapped.gain_db, gains);
    }
    Ok(frames)
}

/// What is looked at is as long as the sound itself.
pub fn end(sound: &mut Rendered) {
    let frames = sound.left.len();
    if let Some(tapped) = &mut sound.tapped {
        for channel in tapped.before.iter_mut().chain(&mut tapped.after) {
            channel.resize(frames, 0.0);
        }
    }
}
