//! A sound at its rate and at half of it, again and again, as it comes.

/// Half the length of the half-band filter, in samples of the faster side.
const REACH: usize = 23;

/// Coefficients of a half-band low-pass: a sinc under a Kaiser window (Kaiser, "Nonrecursive digital filter design using the I0-sinh window
/// function", 1974), flat to 0.19 of the faster rate, 80 dB down from 0.31 on. Only every second one beside the middle is not 0.
fn half_band() -> [f32; REACH.div_ceil(2)] {
    const BETA: f64 = 8.0;
    let window = |at: f64| bessel_i0(BETA * (1.0 - at * at).sqrt()) / bessel_i0(BETA);
    let mut taps = [0.0; REACH.div_ceil(2)];
    let mut sum = 0.0;
    for (n, tap) in taps.iter_mut().enumerate() {
        let at = (2 * n + 1) as f64;
        let turned = std::f64::consts::FRAC_PI_2 * at;
        *tap = 0.5 * libm::sin(turned) / turned * window(at / (REACH + 1) as f64);
        sum += 2.0 * *tap;
    }
    // what goes through at 0 Hz is exactly one
    taps.map(|tap| (tap * 0.5 / sum) as f32)
}

/// Modified Bessel function of the first kind of order 0, by its power series.
fn bessel_i0(x: f64) -> f64 {
    let quarter = 0.25 * x * x;
    let (mut term, mut sum, mut n) = (1.0, 1.0, 1.0);
    while term > 1e-12 * sum {
        term *= quarter / (n * n);
        sum += term;
        n += 1.0;
    }
    sum
}

/// Both channels at one rate.
#[derive(Debug, Clone, Default)]
struct Step {
    sides: [Vec<f32>; 2],
}

/// A sound at `rate / 2^k` for each `k` up to how often it is halved. Sample `m` of a step lies at the time of sample `m * 2^k` of the
/// sound: the filters look both ways.
#[derive(Debug, Clone)]
pub struct Pyramid {
    taps: [f32; REACH.div_ceil(2)],
    steps: Vec<Step>,
}

impl Pyramid {
    /// An empty one that halves so many times.
    pub fn new(halvings: usize) -> Self {
        Pyramid {
            taps: half_band(),
            steps: vec![Step::default(); halvings + 1],
        }
    }

    /// Forgets the sound and keeps the room.
    pub fn clear(&mut self) {
        for side in self.steps.iter_mut().flat_map(|step| &mut step.sides) {
            side.clear();
        }
    }

    /// Takes what comes next; both channels have the same length.
    pub fn hear(&mut self, left: &[f32], right: &[f32]) {
        for (side, new) in self.steps[0].sides.iter_mut().zip([left, right]) {
            side.extend_from_slice(new);
        }
        for k in 1..self.steps.len() {
            let (above, below) = self.steps.split_at_mut(k);
            for (fast, slow) in above[k - 1].sides.iter().zip(&mut below[0].sides) {
                halve(&self.taps, fast, slow);
            }
        }
    }

    /// How many samples of a step there are.
    pub fn len(&self, step: usize) -> usize {
        self.steps[step].sides[0].len()
    }

    /// Both channels of a step.
    pub fn sides(&self, step: usize) -> [&[f32]; 2] {
        let [left, right] = &self.steps[step].sides;
        [left, right]
    }
}

/// Goes on with the slower side as far as the faster one reaches.
fn halve(taps: &[f32], fast: &[f32], slow: &mut Vec<f32>) {
    loop {
        let centre = 2 * slow.len();
        if centre + REACH >= fast.len() {
            return;
        }
        let mut sum = 0.5 * fast[centre];
        for (n, tap) in taps.iter().enumerate() {
            let away = 2 * n + 1;
            let before = centre.checked_sub(away).map_or(0.0, |at| fast[at]);
            sum += tap * (before + fast[centre + away]);
        }
        slow.push(sum);
    }
}

#[cfg(test)]
#[allow(clippy::disallowed_methods)] // references are reckoned in their own way
mod tests {
    use super::*;

    fn level_db(step: usize, hz: f64) -> f64 {
        let sine: Vec<f32> = (0..48_000)
            .map(|i| (std::f64::consts::TAU * hz * f64::from(i) / 48_000.0).sin() as f32)
            .collect();
        let mut pyramid = Pyramid::new(5);
        pyramid.hear(&sine, &sine);
        let side = pyramid.sides(step)[0];
        let middle = &side[side.len() / 4..side.len() * 3 / 4];
        let power: f64 = middle.iter().map(|x| f64::from(x * x)).sum();
        10.0 * (2.0 * power / middle.len() as f64).log10()
    }

    #[test]
    fn what_is_read_of_a_step_passes_and_what_would_fold_there_does_not() {
        for step in 1..=5 {
            let rate_hz = 48_000.0 / f64::from(1 << step);
            for share in [0.05, 0.2, 0.38] {
                let db = level_db(step, share * rate_hz);
                assert!(db.abs() < 0.02, "step {step}, {share} of its rate: {db}");
            }
            // folds to 0.38 of the rate
            let db = level_db(step, 0.62 * rate_hz);
            assert!(db < -75.0, "step {step}: {db}");
        }
    }

    #[test]
    fn it_does_not_matter_how_a_sound_is_cut() {
        let sound: Vec<f32> = (0..9000).map(|i| ((i * 37) % 101) as f32 - 50.0).collect();
        let (mut whole, mut cut) = (Pyramid::new(4), Pyramid::new(4));
        whole.hear(&sound, &sound);
        for part in sound.chunks(160) {
            cut.hear(part, part);
        }
        for step in 0..=4 {
            assert_eq!(whole.sides(step), cut.sides(step));
        }
    }
}
