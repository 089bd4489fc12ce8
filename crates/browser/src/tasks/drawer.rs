//! The drawing worker: pictures from the pieces the other one renders, their levels and spectra.

use std::rc::Rc;

use zolvik_lab::bands::BandMeter;
use zolvik_lab::level::LevelMeter;
use zolvik_lab::picture::Painter;
use zolvik_lab::piece;
use zolvik_lab::predict::Explanation;
use zolvik_lab::predict::{Moment, explain};
use zolvik_lab::response;
use zolvik_lab::spectrum::{Partial, Span, spectrum_within};
use zolvik_lab::unfold::drawn;
use zolvik_lab::{Detail, Rendered};
use zolvik_patch::document::UnitId;
use zolvik_patch::filter;
use zolvik_patch::hearing::Listening;
use zolvik_patch::pitch::auditioned_hz;
use zolvik_patch::text::{decibels, seconds};
use zolvik_patch::{Patch, json};

use super::bytes::bytes;
use super::moved::{Moved, at_moment, gains};
use crate::described::PictureWords;
use crate::explain::{PartialView, bands_of};
use crate::protocol::{Answer, PictureOf, Refusal};
use crate::view::pitch_words;

/// Points of a filter's response.
const RESPONSE_ROWS: usize = 240;
/// Frames of all sounds that are kept: 48 MB in both channels.
const KEPT_FRAMES: usize = 6_000_000;
/// A partial is pointed at from a semitone around it.
const POINT_RATIO: f64 = 1.06;
/// What is so much weaker than the strongest around it is not meant, in decibels.
const HEARD_DB: f64 = 30.0;

/// The picture that is drawn, and those that were.
#[derive(Default)]
pub(super) struct Drawer {
    under: Option<Under>,
    /// Of the last pictures; kept for the next on the same grid.
    painters: Vec<Painter>,
    shown: Option<Rc<Drawn>>,
    /// Newest last.
    kept: Vec<(u32, Rc<Drawn>)>,
}

struct Under {
    painter: Painter,
    sound: Rendered,
    of: PictureOf,
    level: LevelMeter,
    /// None for a picture made in a hurry.
    bands: Option<Bands>,
}

/// Measures a sound by bands, and what is before and after the effect looked at.
struct Bands {
    own: BandMeter,
    around: Option<[BandMeter; 2]>,
}

/// A picture, and what spectra are made of.
struct Drawn {
    patch: Patch,
    listening: Listening,
    sound: Rendered,
    answer: Answer,
    parts: Vec<Vec<u8>>,
}

impl Drawer {
    /// Begins a picture of a sound of so many seconds, in place of one that is not whole.
    pub(super) fn begin(
        &mut self,
        of: PictureOf,
        rate_hz: f64,
        length_s: f64,
    ) -> Result<Answer, Refusal> {
        self.put_away();
        let grid = of
            .detail
            .grid(length_s, of.exponent, rate_hz, of.span.held());
        let known = self.painters.iter().position(|p| *p.grid() == grid);
        let mut painter =
            known.map_or_else(|| Painter::new(grid), |at| self.painters.swap_remove(at));
        painter.clear();
        let bands = match of.detail {
            Detail::Coarse => None,
            Detail::Fine => Some(Bands {
                own: BandMeter::new(rate_hz),
                around: of.effect.map(|_| [(); 2].map(|()| BandMeter::new(rate_hz))),
            }),
        };
        self.under = Some(Under {
            painter,
            sound: Rendered::empty(rate_hz),
            level: of.detail.meter(rate_hz),
            bands,
            of,
        });
        Ok(ready())
    }

    fn put_away(&mut self) {
        if let Some(under) = self.under.take() {
            self.painters.truncate(3);
            self.painters.insert(0, under.painter);
        }
    }

    /// Takes a piece of its sound.
    pub(super) fn go(
        &mut self,
        bytes: &[u8],
        look: bool,
        parts: &mut Vec<Vec<u8>>,
    ) -> Result<Answer, Refusal> {
        let under = self
            .under
            .as_mut()
            .ok_or(Refusal::Cannot("no picture was begun"))?;
        let before = under.sound.left.len();
        piece::add(&mut under.sound, bytes)?;
        let sound = &under.sound;
        let (left, right) = (&sound.left[before..], &sound.right[before..]);
        under.painter.hear(left, right);
        // measured as it comes, while the other worker renders on
        under.level.hear(&sound.left, &sound.right);
        if let Some(bands) = &mut under.bands {
            bands.own.hear(&sound.left, &sound.right);
            if let (Some(around), Some(tapped)) = (&mut bands.around, &sound.tapped) {
                let so_far = sound.left.len();
                for (meter, sides) in around.iter_mut().zip([&tapped.before, &tapped.after]) {
                    let [left, right] = [0, 1].map(|n| &sides[n][..sides[n].len().min(so_far)]);
                    meter.hear(left, right);
                }
            }
        }
        let grid = under.painter.grid();
        if look {
            parts.push(under.painter.picture().to_vec());
            let fronts = under.painter.fronts();
            parts.push(fronts.iter().flat_map(|f| f.to_le_bytes()).collect());
        }
        Ok(Answer::Inked {
            columns: grid.columns,
            rows: grid.rows,
            begun: under.painter.begun(),
        })
    }

    /// The sound is whole: draws what is left, and measures it.
    pub(super) fn end(&mut self, key: u32, parts: &mut Vec<Vec<u8>>) -> Result<Answer, Refusal> {
        let Under {
            mut painter,
            mut sound,
            of,
            level,
            bands,
        } = self
            .under
            .take()
            .ok_or(Refusal::Cannot("no picture was begun"))?;
        let patch = json::read(&of.text)?;
        painter.end();
        piece::end(&mut sound);
        let level = level.end(&sound.left, &sound.right);
        let bands = bands.map_or_else(Vec::new, |Bands { own, around }| {
            let own = own.end(&sound.left, &sound.right);
            let end = |meter: BandMeter, [left, right]: &[Vec<f32>; 2]| meter.end(left, right);
            let around = around.zip(sound.tapped.as_ref());
            bands_of(
                &own,
                around.map(|([b, a], t)| (end(b, &t.before), end(a, &t.after))),
            )
        });
        let span = painter.grid().span;
        let drawn = drawn(&painter, sound, level);
        self.painters.truncate(3);
        self.painters.insert(0, painter);
        let moved = Moved::new(&patch, &drawn);
        let places = &moved.curves[..drawn.columns * drawn.places.len()];
        let told = match of.detail {
            Detail::Fine => PictureWords::of(&drawn, places, span),
            Detail::Coarse => PictureWords::default(),
        };
        let tapped = drawn.sound.tapped.as_ref();
        let gain_db = tapped.map_or_else(Vec::new, |t| gains(&t.gain_db, &drawn.frames));
        let answer = Answer::Unfolded {
            columns: drawn.columns,
            rows: drawn.rows,
            units: drawn.sound.units.clone(),
            sources: patch.movement.sources.iter().map(|s| s.id).collect(),
            links: patch.movement.links.iter().map(|l| l.id).collect(),
            sends: moved.sends,
            gain_db,
            bands,
            level: drawn.level.into(),
            told,
        };
        let picture = Rc::new(Drawn {
            parts: vec![
                drawn.spectrogram,
                bytes(&drawn.loudness_db),
                bytes(&moved.units),
                bytes(&moved.curves),
            ],
            sound: drawn.sound,
            listening: of.listening,
            patch,
            answer,
        });
        parts.extend(picture.parts.iter().cloned());
        let answer = picture.answer.clone();
        if of.detail == Detail::Fine && !of.aside {
            self.keep(key, picture.clone());
        }
        if !of.aside {
            self.shown = Some(picture);
        }
        Ok(answer)
    }

    fn keep(&mut self, key: u32, picture: Rc<Drawn>) {
        self.kept.retain(|(known, _)| *known != key);
        self.kept.push((key, picture));
        let frames = |drawn: &Drawn| {
            drawn.sound.left.len() * if drawn.sound.tapped.is_some() { 3 } else { 1 }
        };
        while self.kept.len() > 1
            && self.kept.iter().map(|(_, d)| frames(d)).sum::<usize>() > KEPT_FRAMES
        {
            self.kept.remove(0);
        }
    }

    /// A picture that was kept.
    pub(super) fn again(&mut self, key: u32, parts: &mut Vec<Vec<u8>>) -> Result<Answer, Refusal> {
        self.put_away();
        let at = self.kept.iter().position(|(known, _)| *known == key);
        let at = at.ok_or(Refusal::Cannot("this picture was let go"))?;
        let found = self.kept.remove(at);
        let picture = found.1.clone();
        self.kept.push(found);
        parts.extend(picture.parts.iter().cloned());
        let answer = picture.answer.clone();
        self.shown = Some(picture);
        Ok(answer)
    }

    /// Spectrum of the last picture at a moment, and what theory makes of it.
    pub(super) fn spectrum(
        &self,
        time_s: f64,
        rows: usize,
        span: Span,
        filter: Option<UnitId>,
        parts: &mut Vec<Vec<u8>>,
    ) -> Result<Answer, Refusal> {
        let shown = self
            .shown
            .as_ref()
            .ok_or(Refusal::Cannot("no note was drawn yet"))?;
        let (span, sound) = (span.held(), &shown.sound);
        let looked = |sides: [&[f32]; 2]| spectrum_within(sides, sound.rate_hz, time_s, rows, span);
        let spectrum = looked([&sound.left, &sound.right]);
        let (there, mut explanation) = shown.explained(time_s, &spectrum.partials);
        let found =
            filter.and_then(|id| Some((filter::of(there.unit(id)?)?, shown.amplitude(id, time_s))));
        let response = found.map_or_else(Vec::new, |(filter, level)| {
            let cutoff = filter::cutoff_hz(filter, auditioned_hz(&there), level);
            let rate_hz = sound.rate_hz * there.times_rate_auditioned() as f64;
            (0..RESPONSE_ROWS)
                .map(|row| {
                    let hz = span.row_hz(row as f64 + 0.5, RESPONSE_ROWS);
                    let gain = response::gain(filter, cutoff, hz, rate_hz);
                    (200.0 * gain.max(1e-6).log10()).round() / 10.0
                })
                .collect()
        });
        // of an effect that is looked at the spectrum is that after it
        let tapped = sound.tapped.as_ref();
        let side = |sides: &[Vec<f32>; 2]| looked([&sides[0], &sides[1]]);
        let before_db = tapped.map_or_else(Vec::new, |t| side(&t.before).rows_db);
        let partials = explanation.told_apart(&spectrum).into_iter();
        let partials = partials
            .map(|p| PartialView::of(&p, &explanation))
            .collect();
        let own = tapped.map_or(spectrum, |t| side(&t.after));
        parts.push(bytes(&own.rows_db));
        parts.push(bytes(&own.rows_place));
        Ok(Answer::Spectrum {
            before_db,
            partials,
            explanation: explanation.into(),
            response,
        })
    }

    /// What stands at a point of the last picture: the partial nearest to it, or how strong it is there.
    pub(super) fn point(&self, time_s: f64, hz: f64) -> Result<Answer, Refusal> {
        let shown = self
            .shown
            .as_ref()
            .ok_or(Refusal::Cannot("no note was drawn yet"))?;
        let sound = &shown.sound;
        let (time, unit) = seconds(time_s);
        let narrow = Span {
            from_hz: hz / POINT_RATIO,
            to_hz: hz * POINT_RATIO,
        };
        let looked = spectrum_within(
            [&sound.left, &sound.right],
            sound.rate_hz,
            time_s,
            1,
            narrow,
        );
        let (_, mut explanation) = shown.explained(time_s, &looked.partials);
        let partials = explanation.told_apart(&looked);
        let away = |p: &Partial| (p.hz / hz).ln().abs();
        let near: Vec<&Partial> = partials
            .iter()
            .filter(|p| away(p) < POINT_RATIO.ln())
            .collect();
        // the nearest of those that can be heard beside the strongest
        let loudest_db = near.iter().map(|p| p.db).fold(f64::MIN, f64::max);
        let heard = near.iter().filter(|p| p.db > loudest_db - HEARD_DB);
        let near = heard.min_by(|a, b| away(a).total_cmp(&away(b))).copied();
        let made = near.and_then(|near| explanation.of(near));
        Ok(Answer::Pointed {
            time: format!("{time} {unit}"),
            pitch: pitch_words(near.map_or(hz, |p| p.hz)),
            level: decibels(near.map_or(looked.rows_db[0].into(), |p| p.db), "dB"),
            by: made.map(|made| made.by),
            made_by: made.map_or_else(String::new, |made| made.words.clone()),
            partial_hz: near.map(|p| p.hz),
        })
    }

    /// Highest and lowest samples of stretches of the last picture's sound, by turns, left and right.
    pub(super) fn cycles(
        &self,
        from_s: f64,
        to_s: f64,
        columns: usize,
        parts: &mut Vec<Vec<u8>>,
    ) -> Result<Answer, Refusal> {
        let shown = self
            .shown
            .as_ref()
            .ok_or(Refusal::Cannot("no note was drawn yet"))?;
        let sound = &shown.sound;
        let columns = columns.clamp(1, 4000);
        let each = (to_s - from_s).max(1e-5) / columns as f64 * sound.rate_hz;
        for side in [&sound.left, &sound.right] {
            parts.push(bytes(&stretches(
                side,
                from_s * sound.rate_hz,
                each,
                columns,
            )));
        }
        Ok(Answer::Waveform {
            length_s: sound.left.len() as f64 / sound.rate_hz,
        })
    }
}

/// Highest and lowest value of each of so many stretches of `each` frames; shorter ones lie on the line between two frames.
fn stretches(side: &[f32], from: f64, each: f64, columns: usize) -> Vec<f32> {
    let at = |frame: f64| {
        let whole = frame.floor();
        let sample = |n: f64| {
            if n < 0.0 {
                0.0
            } else {
                side.get(n as usize).copied().unwrap_or(0.0)
            }
        };
        let share = (frame - whole) as f32;
        sample(whole) + (sample(whole + 1.0) - sample(whole)) * share
    };
    let stretch = |column: usize| {
        let (begin, end) = (
            from + each * column as f64,
            from + each * (column + 1) as f64,
        );
        let edges = [at(begin), at(end)];
        let (first, last) = (begin.ceil().max(0.0) as usize, end.max(0.0) as usize + 1);
        let inside = side.get(first..last.min(side.len())).unwrap_or(&[]);
        let inside = inside.iter().take(if each < 1.0 { 0 } else { usize::MAX });
        let all = || edges.iter().chain(inside.clone());
        [
            all().fold(f32::MIN, |a, b| a.max(*b)),
            all().fold(f32::MAX, |a, b| a.min(*b)),
        ]
    };
    (0..columns).flat_map(stretch).collect()
}

impl Drawn {
    /// What a unit puts out at a moment, 0 to 1.
    fn amplitude(&self, id: UnitId, time_s: f64) -> f64 {
        let at = self.sound.units.iter().position(|u| *u == id);
        at.map_or(0.0, |at| self.at(&self.sound.amplitudes[at], time_s))
    }

    /// A course at a moment.
    fn at(&self, course: &[f32], time_s: f64) -> f64 {
        let block = (time_s.max(0.0) * self.sound.rate_hz) as usize / zolvik_engine::BLOCK;
        let value = course.get(block.min(course.len().saturating_sub(1)));
        value.copied().unwrap_or(0.0).into()
    }

    /// The patch as movement has it at a moment, and what theory makes of the partials there.
    fn explained(&self, time_s: f64, partials: &[Partial]) -> (Patch, Explanation) {
        let motion = |link: usize| {
            let course = self.sound.motions.get(link);
            course.map_or(0.0, |course| self.at(course, time_s))
        };
        let there = at_moment(&self.patch, motion);
        let explanation = explain(
            &Moment {
                patch: &there,
                listening: &self.listening,
                amplitudes: &|id| self.amplitude(id, time_s),
                rate_hz: self.sound.rate_hz,
            },
            partials,
        );
        (there, explanation)
    }
}

fn ready() -> Answer {
    Answer::Ready {
        file_name: String::new(),
    }
}
