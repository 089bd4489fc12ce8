//! A recording ready to be played: cut, turned round and looped as a sample asks for, in octave steps of ever fewer
//! high tones, so that it can be transposed without aliasing.

use std::sync::{Arc, LazyLock};

use zolvik_patch::document::{Patch, Sample, Unit, UnitKind};
use zolvik_patch::movement::target::moves_loop;
use zolvik_patch::sound::Sound;

use crate::bank::NoBank;
use crate::clip::{Clip, Clips};
use wide::f32x8;

use crate::kernel::{KERNELS, windowed_sine};
use crate::key::Key;
use crate::memo::{Memo, remembered, with_room};
use crate::ready;
use crate::words::{Words, double, from_bytes};

/// Samples before and after what is played, so that a kernel can be laid anywhere.
pub const GUARD: usize = 64;
/// Versions an octave apart.
pub const OCTAVES: usize = 7;
/// All versions: one more at twice the rate.
const VERSIONS: usize = OCTAVES + 1;
/// Most samples that are kept at twice the rate too: half a minute.
const MOST_DOUBLED: usize = 30 * 48_000;

/// A recording ready to be played.
#[derive(Debug, Clone, PartialEq)]
pub struct Recording {
    /// What tells it from others; see [`key`].
    pub key: u64,
    /// Sample rate of the first version in hertz.
    pub rate_hz: f64,
    /// Samples that are played, guards and repetitions left out.
    pub frames: usize,
    /// Where the loop begins and how long it is, in samples of the first version; of no length where it ends.
    pub looped: (usize, usize),
    /// What a loop that moves while it sounds is made from; such a recording has none laid into it.
    pub moving: Option<MovingLoop>,
    /// Where each version starts in `samples`; the last is that at twice the rate, of no length where that would be too much.
    starts: [usize; VERSIONS + 1],
    samples: Words,
}

/// What a loop that moves while it sounds is made from: lengths in samples of the first version.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MovingLoop {
    /// Of the whole recording, of which its ends are shares.
    pub total: usize,
    /// What was cut off before the stretch that is played.
    pub from: usize,
    /// Of the crossfade, where there is as much; never 0.
    pub fade: usize,
    /// Whether it is played backwards.
    pub reverse: bool,
}

/// A sample as a patch plays it.
#[derive(Debug, Clone, Copy)]
pub struct Played<'a> {
    /// What is played.
    pub sample: &'a Sample,
    /// Whether its loop moves while it sounds.
    pub loop_moves: bool,
}

/// Numbers before where the versions start: key, rate, places and lengths.
const NUMBERS: usize = 9;
/// Words before the samples: two for each number.
const HEAD: usize = 2 * (NUMBERS + VERSIONS + 1);
/// The shortest crossfade of a loop that moves, in seconds: without one every round would click.
const LEAST_FADE_S: f64 = 0.002;

impl Recording {
    /// Makes a recording of a clip as a sample plays it.
    pub fn new(key: u64, clip: &Clip, Played { sample, loop_moves }: Played<'_>) -> Recording {
        let total = clip.samples.len();
        let place = |share: f64| ((share * total as f64).round() as usize).min(total);
        let (from, to) = (place(sample.start), place(sample.end));
        let to = to.max(from + 1).min(total);
        let from = from.min(to.saturating_sub(1));
        let mut played: Vec<f32> = clip.samples.get(from..to).unwrap_or_default().to_vec();
        // what lies before it, in the order it is played
        let mut before: Vec<f32> = clip.samples.get(..from).unwrap_or_default().to_vec();
        let mut stretch = (
            place(sample.loop_start).clamp(from, to) - from,
            place(sample.loop_end).clamp(from, to) - from,
        );
        if sample.reverse {
            played.reverse();
            before = clip.samples.get(to..).unwrap_or_default().to_vec();
            before.reverse();
            stretch = (played.len() - stretch.1, played.len() - stretch.0);
        }
        let (mut start, mut length) = (stretch.0, stretch.1.saturating_sub(stretch.0));
        let looped = sample.looped && length >= 2 && !loop_moves;
        if looped {
            played.truncate(stretch.1);
            let wanted = (sample.crossfade_s * clip.rate_hz) as usize;
            match Fade::of(before.len() + start, length, wanted) {
                Fade::Before(frames) => {
                    let first = before.len() + start - frames;
                    let lead: Vec<f32> = before.iter().chain(&played).copied().collect();
                    cross(&mut played, &lead[first..first + frames]);
                }
                Fade::Within(frames) => {
                    let lead = played[start..start + frames].to_vec();
                    cross(&mut played, &lead);
                    (start, length) = (start + frames, length - frames);
                }
            }
        } else {
            fade_out(&mut played, (END_FADE_S * clip.rate_hz) as usize);
        }
        let moving = MovingLoop {
            total,
            from,
            fade: ((sample.crossfade_s.max(LEAST_FADE_S) * clip.rate_hz) as usize).max(1),
            reverse: sample.reverse,
        };
        Recording {
            moving: (sample.looped && loop_moves).then_some(moving),
            ..Self::lay(key, clip.rate_hz, played, looped.then_some((start, length)))
        }
    }

    /// Lays the versions out: guard, samples, and after them the loop going on, or silence.
    fn lay(key: u64, rate_hz: f64, played: Vec<f32>, looped: Option<(usize, usize)>) -> Recording {
        let frames = played.len();
        // the lowest version must still have its guard where the loop wraps
        let after = (2 * GUARD) << (OCTAVES - 1);
        let (start, length) = looped.unwrap_or((frames, 0));
        let mut version = vec![0.0; GUARD << (OCTAVES - 1)];
        version.extend(&played);
        if length > 0 {
            version.extend((0..after).map(|i| played[start + i % length]));
        } else {
            version.extend(std::iter::repeat_n(0.0, after));
        }
        let (mut samples, mut starts) = (vec![], [0; VERSIONS + 1]);
        let double = match frames <= MOST_DOUBLED {
            true => doubled(&version),
            false => vec![],
        };
        for octave in 0..OCTAVES {
            samples.extend(&version);
            starts[octave + 1] = samples.len();
            version = halved(&version);
        }
        samples.extend(double);
        starts[VERSIONS] = samples.len();
        Recording {
            key,
            rate_hz,
            frames,
            looped: (start, length),
            moving: None,
            starts,
            samples: Words::of(samples),
        }
    }

    /// Samples of a version, each octave at half the rate of the one before, and where the recording begins in it.
    pub fn version(&self, octave: usize) -> (&[f32], f64) {
        let octave = octave.min(OCTAVES - 1);
        let range = self.starts[octave]..self.starts[octave + 1];
        let lead = (GUARD << (OCTAVES - 1)) as f64 / (1u32 << octave) as f64;
        (self.samples.samples().get(range).unwrap_or_default(), lead)
    }

    /// The recording at twice its rate, which begins twice as far in; none where it is too long to be kept so.
    #[inline]
    pub fn doubled(&self) -> Option<&[f32]> {
        let range = self.starts[OCTAVES]..self.starts[VERSIONS];
        let samples = self.samples.samples().get(range)?;
        (!samples.is_empty()).then_some(samples)
    }

    /// From where on a place is led back into the loop; none where it just ends.
    pub fn wraps_at(&self) -> Option<f64> {
        let (start, length) = self.looped;
        (length > 0).then(|| (start + length + (GUARD << (OCTAVES - 1))) as f64)
    }

    /// The recording as bytes, for another thread.
    pub fn bytes(&self) -> Vec<u8> {
        let mut bytes = Vec::with_capacity(4 * (HEAD + self.samples.samples().len()));
        bytes.extend(self.key.to_le_bytes());
        bytes.extend(self.rate_hz.to_le_bytes());
        let moving = self.moving.map_or([0; 4], |moving| {
            [
                moving.total,
                moving.from,
                moving.fade,
                moving.reverse.into(),
            ]
        });
        let places = [self.frames, self.looped.0, self.looped.1];
        for n in places.into_iter().chain(moving) {
            bytes.extend((n as u64).to_le_bytes());
        }
        for start in self.starts {
            bytes.extend((start as u64).to_le_bytes());
        }
        bytes.extend_from_slice(bytemuck::cast_slice(self.samples.samples()));
        bytes
    }

    /// Reads what [`Recording::bytes`] gave.
    ///
    /// # Errors
    /// If the bytes are none. Never panics.
    pub fn from_bytes(bytes: &[u8]) -> Result<Recording, NoBank> {
        match bytes.len().is_multiple_of(4) {
            true => Recording::from_words(from_bytes(bytes), 0),
            false => Err(NoBank),
        }
    }

    /// The same from memory it then owns, laid out as words, from one of them on: nothing is copied.
    ///
    /// # Errors
    /// As [`Recording::from_bytes`].
    pub fn from_words(words: Vec<f32>, first: usize) -> Result<Recording, NoBank> {
        let head = words.get(first..first + HEAD).ok_or(NoBank)?;
        let size = |at: usize| usize::try_from(double(head, 2 * at)).map_err(|_| NoBank);
        let mut starts = [0; VERSIONS + 1];
        for (i, start) in starts.iter_mut().enumerate() {
            *start = size(NUMBERS + i)?;
        }
        let count = words.len() - first - HEAD;
        if starts[VERSIONS] != count || starts.windows(2).any(|w| w[0] > w[1]) {
            return Err(NoBank);
        }
        let (key, rate_hz) = (double(head, 0), f64::from_bits(double(head, 2)));
        let looped = (size(3)?, size(4)?);
        let (frames, end) = (size(2)?, looped.0.checked_add(looped.1).ok_or(NoBank)?);
        let moving = MovingLoop {
            total: size(5)?,
            from: size(6)?,
            fade: size(7)?,
            reverse: size(8)? != 0,
        };
        let sound = rate_hz.is_finite() && rate_hz > 0.0 && frames <= count && end <= frames;
        if !sound {
            return Err(NoBank);
        }
        Ok(Recording {
            key,
            rate_hz,
            frames,
            looped,
            moving: (moving.fade > 0).then_some(moving),
            starts,
            samples: Words::after(words, first + HEAD),
        })
    }
}

/// Over how long a recording that is cut off ends, in seconds.
const END_FADE_S: f64 = 0.002;

/// Where a loop's crossfade takes what it fades into, and how many samples of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fade {
    /// From before the loop's start.
    Before(usize),
    /// From the loop's own start, which then begins that much later: where little stands before it.
    Within(usize),
}

impl Fade {
    /// As long as wanted, as far as there is enough, with so many samples before a loop and so many of it.
    fn of(before: usize, length: usize, wanted: usize) -> Fade {
        let (before, within) = (before.min(length), length / 2);
        match wanted <= before || before >= within {
            true => Fade::Before(before.min(wanted)),
            false => Fade::Within(within.min(wanted)),
        }
    }

    fn frames(self) -> usize {
        match self {
            Fade::Before(frames) | Fade::Within(frames) => frames,
        }
    }
}

/// The longest crossfade the loop of a sample can have, in seconds, its recording being of so many samples.
pub fn longest_crossfade_s(sample: &Sample, frames: usize, rate_hz: f64) -> f64 {
    let place = |share: f64| (share * frames as f64).round() as usize;
    let (from, to) = (place(sample.start), place(sample.end));
    let (first, last) = (place(sample.loop_start), place(sample.loop_end));
    let (first, last) = (first.clamp(from, to), last.clamp(from, to));
    let before = if sample.reverse { frames - last } else { first };
    Fade::of(before, last - first, usize::MAX).frames() as f64 / rate_hz
}

/// Fades the end of a loop into what leads to its start. Gains `1 - t` and `t` are divided by
/// `sqrt(a^2 + b^2 + 2 a b r)`, with `r` how alike both are (0 to 1), so that neither like nor unlike sounds change their level
/// on the way. Derived here.
fn cross(played: &mut [f32], lead: &[f32]) {
    let fade = lead.len();
    let first = played.len() - fade;
    let Some(tail) = played.get_mut(first..).filter(|tail| !tail.is_empty()) else {
        return;
    };
    let (mut own, mut other, mut both) = (1e-12, 1e-12, 0.0);
    for (out, back) in tail.iter().zip(lead) {
        let (out, back) = (f64::from(*out), f64::from(*back));
        own += out * out;
        other += back * back;
        both += out * back;
    }
    let alike = (both / (own * other).sqrt()).clamp(0.0, 1.0);
    for (i, (sample, back)) in tail.iter_mut().zip(lead).enumerate() {
        let (out, back) = (f64::from(*sample), f64::from(*back));
        // reaches the other sound with the last sample, so that the next one, the loop's first, follows it
        let t = (i + 1) as f64 / fade as f64;
        let norm = ((1.0 - t) * (1.0 - t) + t * t + 2.0 * t * (1.0 - t) * alike).sqrt();
        *sample = ((out * (1.0 - t) + back * t) / norm) as f32;
    }
}

/// Fades the end of a recording out, along half a cosine.
fn fade_out(played: &mut [f32], frames: usize) {
    let frames = frames.min(played.len() / 4);
    let first = played.len() - frames;
    for (i, sample) in played[first..].iter_mut().enumerate() {
        let t = (i + 1) as f64 / frames as f64;
        *sample *= (0.5 + 0.5 * libm::cos(core::f64::consts::PI * t)) as f32;
    }
}

/// Twice the rate, by the kernel that reads recordings at their own speed.
fn doubled(samples: &[f32]) -> Vec<f32> {
    let fan = &KERNELS[0];
    let before = fan.taps() / 2 - 1;
    let mut padded = vec![0.0; before];
    padded.extend(samples);
    padded.resize(samples.len() + fan.taps(), 0.0);
    let (on, half) = (fan.rows(0.0).0, fan.rows(0.5).0);
    let windows = padded.windows(fan.taps()).take(samples.len());
    windows
        .flat_map(|window| [dot(window, on), dot(window, half)])
        .collect()
}

/// The sum of products, in an order that is the same everywhere.
fn dot(samples: &[f32], weights: &[f32]) -> f32 {
    let pairs = samples
        .as_chunks::<8>()
        .0
        .iter()
        .zip(weights.as_chunks::<8>().0);
    let mut sum = f32x8::ZERO;
    for (samples, weights) in pairs {
        sum += f32x8::new(*samples) * f32x8::new(*weights);
    }
    let [a, b, c, d, e, f, g, h] = sum.to_array();
    ((a + b) + (c + d)) + ((e + f) + (g + h))
}

/// Half the rate: a windowed sine (Kaiser, 1974) of 95 taps that leaves nothing above a quarter of the rate but a
/// narrow edge, see the test.
fn halved(samples: &[f32]) -> Vec<f32> {
    const REACH: i64 = 47;
    let tap = |i: i64| {
        let x = i as f64;
        windowed_sine(0.47, core::f64::consts::PI * x * 0.47, x / 48.0, 9.0)
    };
    let taps: Vec<f64> = (0..=REACH).map(tap).collect();
    let sum: f64 = taps[0] + 2.0 * taps[1..].iter().sum::<f64>();
    let taps: Vec<f32> = taps.iter().map(|t| (t / sum) as f32).collect();
    let at = |i: i64| {
        usize::try_from(i)
            .ok()
            .and_then(|i| samples.get(i))
            .copied()
            .unwrap_or(0.0)
    };
    let inner = REACH as usize..samples.len().saturating_sub(REACH as usize);
    (0..samples.len() / 2)
        .map(|i| {
            let middle = 2 * i;
            let mut sum = samples[middle] * taps[0];
            if inner.contains(&middle) {
                for (n, tap) in taps.iter().enumerate().skip(1) {
                    sum += (samples[middle - n] + samples[middle + n]) * tap;
                }
            } else {
                for (n, tap) in taps.iter().enumerate().skip(1) {
                    sum += (at(middle as i64 - n as i64) + at(middle as i64 + n as i64)) * tap;
                }
            }
            sum
        })
        .collect()
}

/// What tells the recordings of samples apart: equal where they play alike, never 0. Needs no audio.
pub fn key(Played { sample, loop_moves }: Played<'_>) -> u64 {
    let mut hash = Key::new();
    match &sample.sound {
        Sound::Ready(ready) => hash.words([11, *ready as u64]),
        Sound::Own(own) => {
            hash.words([12]);
            hash.bytes(own.content.as_bytes());
        }
    }
    let moves = loop_moves && sample.looped;
    // where a loop that moves stands is not laid into it
    let [loop_start, loop_end] = match moves {
        true => [-1.0; 2],
        false => [sample.loop_start, sample.loop_end],
    };
    let places = [sample.start, sample.end, loop_start, loop_end];
    hash.words(places.map(f64::to_bits));
    hash.words([sample.crossfade_s.to_bits()]);
    hash.words([u64::from(sample.looped), u64::from(sample.reverse)]);
    hash.done()
}

/// The clip of a sample; none if it is missing.
pub fn clip(sound: &Sound, clips: &dyn Clips) -> Option<Arc<Clip>> {
    match sound {
        Sound::Ready(ready) => Some(ready::clip(*ready)),
        Sound::Own(own) => clips.clip(&own.content),
    }
}

/// Recordings made lately.
static MADE: Memo<Recording> = LazyLock::new(|| with_room(16));

/// The recording of a sample, made at most once while it is remembered; none if its audio is missing.
pub fn recording(played: Played<'_>, clips: &dyn Clips) -> Option<Arc<Recording>> {
    let key = key(played);
    remembered(&MADE, key, || {
        let clip = clip(&played.sample.sound, clips)?;
        Some(Recording::new(key, &clip, played))
    })
}

/// A unit's sample as a patch plays it; none of another kind.
pub fn played<'a>(patch: &Patch, unit: &'a Unit) -> Option<Played<'a>> {
    match &unit.kind {
        UnitKind::Sample(sample) => Some(Played {
            sample,
            loop_moves: moves_loop(patch, unit.id),
        }),
        _ => None,
    }
}

/// The samples of a patch.
pub fn samples(patch: &Patch) -> impl Iterator<Item = Played<'_>> {
    patch.units.iter().filter_map(|unit| played(patch, unit))
}
