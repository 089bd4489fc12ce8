//! A spectrogram, painted column by column as the sound comes.

use super::pyramid::Pyramid;
use super::rows::{Looker, highest_db, power_db};
use crate::axis::{FLOOR_DB, time_at};
use crate::spectrum::Span;

/// How sharp the windows are in frequency: as Hann windows of so many seconds, shortest first. An onset is seen over less than half of one, partials two and a half of its inverses apart
/// stand apart.
const WINDOWS_S: [f64; 5] = [
    512.0 / 48_000.0,
    1024.0 / 48_000.0,
    2048.0 / 48_000.0,
    4096.0 / 48_000.0,
    8192.0 / 48_000.0,
];
/// Where one window gives way to the next longer one, in hertz.
const SEAMS_HZ: [f64; 4] = [3400.0, 1300.0, 370.0, 170.0];
/// Over how many octaves, half below and half above.
const SEAM_OCTAVES: f64 = 0.5;
/// Samples of a window, once the rate was halved.
const SHORT: usize = 256;
/// Most windows that are averaged in a column, where columns are wider than a window.
const MOST_IN_COLUMN: usize = 8;

/// Where columns and rows of a picture lie.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Grid {
    /// How many columns.
    pub columns: usize,
    /// How many rows.
    pub rows: usize,
    /// Seconds of all columns.
    pub length_s: f64,
    /// Shape of the time axis, see [`time_at`].
    pub exponent: f64,
    /// Rate of the sound in hertz.
    pub rate_hz: f64,
    /// The frequencies of the rows.
    pub span: Span,
    /// Whether columns that are wider than a window look at all that is in them, not only at their middle.
    pub whole: bool,
}

impl Grid {
    /// The frame a column stands for: its middle.
    pub fn frame(&self, column: usize) -> usize {
        (self.centre_s(column) * self.rate_hz) as usize
    }

    /// The time of its middle, in seconds.
    pub fn centre_s(&self, column: usize) -> f64 {
        self.time_s(column as f64 + 0.5)
    }

    fn time_s(&self, place: f64) -> f64 {
        time_at(place / self.columns as f64, self.length_s, self.exponent)
    }
}

/// One length of window.
struct Layer {
    looker: Looker,
    /// How often the rate is halved.
    step: usize,
    /// Its rows, lowest first: which, its place in bins, and how much of it this layer makes.
    rows: Vec<Part>,
    last_bin: usize,
    /// The column that comes next.
    next: usize,
}

struct Part {
    row: usize,
    from: f32,
    to: f32,
    weight: f32,
}

/// Paints a spectrogram while its sound comes. Levels are those of the power of both channels: what stands in the middle reads its own
/// level, whatever is on one side only 3 dB less.
pub struct Painter {
    grid: Grid,
    layers: Vec<Layer>,
    pyramid: Pyramid,
    /// Powers of the cells as far as they are known, row by row.
    powers: Vec<f32>,
    /// Row by row: 0 is silence, 255 full scale.
    picture: Vec<u8>,
    bins: [Vec<f32>; 2],
    sums: Vec<f32>,
}

impl Painter {
    /// An empty picture.
    pub fn new(grid: Grid) -> Self {
        let layers = (0..WINDOWS_S.len()).map(|n| layer(&grid, n));
        // of part of the frequencies some windows show nothing
        let layers: Vec<Layer> = layers.filter(|layer| !layer.rows.is_empty()).collect();
        let deepest = layers.iter().map(|layer| layer.step).max();
        Painter {
            pyramid: Pyramid::new(deepest.unwrap_or(0)),
            powers: vec![0.0; grid.columns * grid.rows],
            picture: vec![0; grid.columns * grid.rows],
            bins: [vec![], vec![]],
            sums: vec![],
            layers,
            grid,
        }
    }

    /// Begins another picture on the same grid, over the one before.
    pub fn clear(&mut self) {
        self.pyramid.clear();
        self.powers.fill(0.0);
        self.layers.iter_mut().for_each(|layer| layer.next = 0);
    }

    /// Where its columns and rows lie.
    pub fn grid(&self) -> &Grid {
        &self.grid
    }

    /// Row by row, lowest first: 0 is silence ([`FLOOR_DB`]), 255 is full scale.
    pub fn picture(&self) -> &[u8] {
        &self.picture
    }

    /// How many columns of each row are of the present sound.
    pub fn fronts(&self) -> Vec<u16> {
        // what lies beyond half the rate is not known
        let mut fronts = vec![0; self.grid.rows];
        let rows = self.layers.iter().flat_map(|layer| &layer.rows);
        rows.for_each(|part| fronts[part.row] = self.grid.columns as u16);
        for layer in &self.layers {
            for part in &layer.rows {
                fronts[part.row] = fronts[part.row].min(layer.next as u16);
            }
        }
        fronts
    }

    /// How many columns are known to the rows that are quickest.
    pub fn begun(&self) -> usize {
        self.layers
            .iter()
            .map(|layer| layer.next)
            .max()
            .unwrap_or(0)
    }

    /// Takes what comes next and paints what can be seen of it.
    pub fn hear(&mut self, left: &[f32], right: &[f32]) {
        self.pyramid.hear(left, right);
        for n in 0..self.layers.len() {
            while self.layers[n].next < self.grid.columns && self.column(n) {}
        }
    }

    /// The sound is over: what follows is silence.
    pub fn end(&mut self) {
        let silence = [0.0; 2048];
        while self
            .layers
            .iter()
            .any(|layer| layer.next < self.grid.columns)
        {
            self.hear(&silence, &silence);
        }
    }

    /// Paints the next column of a layer, if the sound reaches so far.
    fn column(&mut self, n: usize) -> bool {
        let column = self.layers[n].next;
        let (from_s, to_s) = (
            self.grid.time_s(column as f64),
            self.grid.time_s(column as f64 + 1.0),
        );
        let layer = &self.layers[n];
        let rate_hz = self.grid.rate_hz / f64::from(1u32 << layer.step);
        let length = layer.looker.length();
        let span = (to_s - from_s) * rate_hz;
        let count = match self.grid.whole {
            true => ((span / (length / 2) as f64).ceil() as usize).clamp(1, MOST_IN_COLUMN),
            false => 1,
        };
        let middle = self.grid.time_s(column as f64 + 0.5) * rate_hz;
        let centre = |at: usize| match count {
            1 => middle as usize,
            _ => (from_s * rate_hz + span * (at as f64 + 0.5) / count as f64) as usize,
        };
        if centre(count - 1) + length / 2 > self.pyramid.len(layer.step) {
            return false;
        }
        self.sums.clear();
        self.sums.resize(layer.last_bin + 1, 0.0);
        let last = layer.last_bin;
        for at in 0..count {
            let sides = self.pyramid.sides(self.layers[n].step);
            self.layers[n]
                .looker
                .look(sides, centre(at), &mut self.bins, last);
            let [left, right] = &self.bins;
            for ((sum, l), r) in self.sums.iter_mut().zip(left).zip(right) {
                *sum += 0.5 * (l + r);
            }
        }
        let scale = 1.0 / count as f32;
        for sum in &mut self.sums {
            *sum = power_db(*sum * scale);
        }
        self.layers[n].next += 1;
        let columns = self.grid.columns;
        for part in &self.layers[n].rows {
            let db = highest_db(&self.sums, part.from, part.to);
            let cell = part.row * columns + column;
            let shown = match part.weight >= 1.0 {
                true => db,
                false => {
                    // of two layers the first has its share alone until the other comes
                    let power = exp10(db * 0.1) * part.weight + self.powers[cell];
                    let known = match self.powers[cell] > 0.0 {
                        true => 1.0,
                        false => part.weight,
                    };
                    self.powers[cell] = power.max(1e-20);
                    power_db(power / known)
                }
            };
            let place = (shown - FLOOR_DB) / -FLOOR_DB * 255.0;
            self.picture[cell] = (place + 0.5).clamp(0.0, 255.0) as u8;
        }
        true
    }
}

fn exp10(x: f32) -> f32 {
    libm::exp2f(x * std::f32::consts::LOG2_10)
}

fn layer(grid: &Grid, n: usize) -> Layer {
    let mut size = ((WINDOWS_S[n] * grid.rate_hz) as usize).next_power_of_two();
    let mut step = 0;
    // the highest of its rows stays below a third of the rate it is seen at
    let top_hz = n.checked_sub(1).map_or(f64::MAX, |above| {
        SEAMS_HZ[above] * libm::exp2(0.5 * SEAM_OCTAVES)
    });
    while size > SHORT && top_hz < 0.36 * grid.rate_hz / f64::from(2u32 << step) {
        size /= 2;
        step += 1;
    }
    let looker = Looker::new(size);
    let rate_hz = grid.rate_hz / f64::from(1u32 << step);
    let bins = looker.bins_a_hz(rate_hz);
    let mut rows = vec![];
    for row in 0..grid.rows {
        let (from, to) = (
            grid.span.row_hz(row as f64, grid.rows),
            grid.span.row_hz(row as f64 + 1.0, grid.rows),
        );
        let weight = weight(n, (from * to).sqrt());
        if weight > 0.0 && to < 0.48 * grid.rate_hz {
            rows.push(Part {
                row,
                from: (from * bins) as f32,
                to: (to * bins) as f32,
                weight: weight as f32,
            });
        }
    }
    let last_bin = rows.last().map_or(2, |part| part.to as usize + 3);
    Layer {
        last_bin: last_bin.min(size),
        looker,
        step,
        rows,
        next: 0,
    }
}

/// How much of what is seen at a frequency a layer makes: all of it in its own range, and it takes turns over the seams.
fn weight(n: usize, hz: f64) -> f64 {
    // 0 below a seam, 1 above
    let above = |seam: f64| (0.5 + (hz / seam).log2() / SEAM_OCTAVES).clamp(0.0, 1.0);
    let over = SEAMS_HZ.get(n).map_or(1.0, |seam| above(*seam));
    let under = n.checked_sub(1).map_or(1.0, |n| 1.0 - above(SEAMS_HZ[n]));
    over * under
}
