//! An effect by itself, and what is measured of it.

use std::f64::consts::TAU;

use zolvik_effects::{BLOCK, FAINT_DB, Process, SILENT, Setting, Still, Value, kind};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::effect::effect_params;
use zolvik_patch::finish::{Effect, EffectName};
use zolvik_patch::param::{ChoiceId, ParamId};

/// An effect with all it is set to.
pub struct Bench {
    pub effect: Effect,
    node: Box<dyn Process>,
    pub rate_hz: f64,
    pub tempo_bpm: f64,
    pub beats: f64,
    pub key_hz: f32,
    pub gains: Vec<f32>,
}

impl Bench {
    pub fn new(kind: EffectName, rate_hz: f64) -> Self {
        Bench::of(Effect::new(EffectId(2001), kind), rate_hz)
    }

    pub fn of(effect: Effect, rate_hz: f64) -> Self {
        Bench {
            node: kind(effect.kind.name()).make(rate_hz),
            effect,
            rate_hz,
            tempo_bpm: 120.0,
            beats: 0.0,
            key_hz: 220.0,
            gains: vec![],
        }
    }

    pub fn set(mut self, id: ParamId, value: f64) -> Self {
        self.effect.value_slot(id).unwrap().write(value);
        self
    }

    pub fn choose(mut self, id: ChoiceId, to: usize) -> Self {
        self.effect.choose_of(id, to).unwrap();
        self
    }

    fn with<T>(
        &mut self,
        values: &[Value],
        kick: &[f32; BLOCK],
        act: impl FnOnce(&mut dyn Process, &Setting<'_>) -> T,
    ) -> T {
        let still = Still::of(&self.effect);
        let set = Setting {
            values,
            tempo_bpm: self.tempo_bpm,
            beats: self.beats,
            key_hz: self.key_hz,
            kick,
            ..still.setting(self.rate_hz)
        };
        act(self.node.as_mut(), &set)
    }

    pub fn latency(&mut self) -> usize {
        let values = Still::of(&self.effect).values;
        let about = kind(self.effect.kind.name());
        self.with(&values, &SILENT[0], |_, set| about.latency_frames(set))
    }

    /// Seconds it says it is heard after what goes in.
    pub fn tail_s(&mut self) -> f64 {
        let about = kind(self.effect.kind.name());
        let values = Still::of(&self.effect).values;
        self.with(&values, &SILENT[0], |_, set| about.tail_s(set, FAINT_DB))
    }

    /// What the effect makes of both channels, all of it.
    pub fn run(&mut self, left: &[f32], right: &[f32]) -> [Vec<f32>; 2] {
        self.run_with(left, right, |_, _| {}, |_| 0.0)
    }

    /// The same of one channel in the middle; gives the left one.
    pub fn mono(&mut self, x: &[f32]) -> Vec<f32> {
        let [left, _] = self.run(x, x);
        left
    }

    /// The same, while values change before blocks and the beat's kick has a level by frame.
    pub fn run_with(
        &mut self,
        left: &[f32],
        right: &[f32],
        mut change: impl FnMut(&mut Effect, usize),
        kick: impl Fn(usize) -> f32,
    ) -> [Vec<f32>; 2] {
        let mut out = [vec![], vec![]];
        let mut before = Still::of(&self.effect).values;
        self.gains.clear();
        for (n, (l, r)) in left.chunks(BLOCK).zip(right.chunks(BLOCK)).enumerate() {
            change(&mut self.effect, n * BLOCK);
            let mut values = Still::of(&self.effect).values;
            for (value, before) in values.iter_mut().zip(&before) {
                value.now = before.next;
            }
            before = values.clone();
            let mut block = SILENT;
            block[0][..l.len()].copy_from_slice(l);
            block[1][..r.len()].copy_from_slice(r);
            let kicks = std::array::from_fn(|i| kick(n * BLOCK + i));
            let gain = self.with(&values, &kicks, |node, set| {
                node.run(&mut block, set);
                node.gain_db().unwrap_or(0.0)
            });
            self.gains.push(gain);
            self.beats += BLOCK as f64 / self.rate_hz * self.tempo_bpm / 60.0;
            out[0].extend_from_slice(&block[0][..l.len()]);
            out[1].extend_from_slice(&block[1][..r.len()]);
        }
        out
    }

    /// Gain of a sine in decibels, once it has settled.
    pub fn gain_db(&mut self, hz: f64, level: f64) -> f64 {
        let x = sine(hz, level, 1.0, self.rate_hz);
        let y = self.mono(&x);
        let half = y.len() / 2;
        db(amplitude(&y[half..], hz, self.rate_hz) / level)
    }
}

/// An effect with values at places of their ranges, 0 to 1, in turn.
pub fn any_values(kind: EffectName, places: &[f64], choices: &[usize]) -> Effect {
    let mut effect = Effect::new(EffectId(2001), kind);
    let rows = kind.rows().iter().flat_map(|r| r.choices);
    for (row, to) in rows.zip(choices) {
        effect.choose_of(row.id, to % row.options.len()).unwrap();
    }
    for (row, place) in effect_params(kind).zip(places.iter().cycle()) {
        effect
            .value_slot(row.id)
            .unwrap()
            .write(row.value_at(*place));
    }
    if let Some(bands) = effect.bands_mut() {
        for (band, place) in bands.iter_mut().zip(places) {
            band.hz = 20.0 * 1_000f64.powf(*place);
            band.gain_db = 48.0 * place - 24.0;
            band.q = 0.1 * 180f64.powf(*place);
        }
    }
    effect
}

pub fn db(gain: f64) -> f64 {
    20.0 * gain.max(1e-15).log10()
}

pub fn sine(hz: f64, level: f64, seconds: f64, rate_hz: f64) -> Vec<f32> {
    let frames = (seconds * rate_hz) as usize / BLOCK * BLOCK;
    (0..frames)
        .map(|i| (level * (TAU * hz * i as f64 / rate_hz).sin()) as f32)
        .collect()
}

/// Noise that is the same every time, -1 to 1.
pub fn noise(seconds: f64, rate_hz: f64, mut seed: u64) -> Vec<f32> {
    let frames = (seconds * rate_hz) as usize / BLOCK * BLOCK;
    (0..frames)
        .map(|_| {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
            ((seed >> 40) as f32 / 8_388_608.0) - 1.0
        })
        .collect()
}

/// Amplitude of a partial, weighed by a window whose side lobes lie 92 dB down (Blackman and Harris, 1978).
pub fn amplitude(x: &[f32], hz: f64, rate_hz: f64) -> f64 {
    let (mut c, mut s, mut sum) = (0.0, 0.0, 0.0);
    for (i, y) in x.iter().enumerate() {
        let place = TAU * (i as f64 + 0.5) / x.len() as f64;
        let window = 0.358_75 - 0.488_29 * place.cos() + 0.141_28 * (2.0 * place).cos()
            - 0.011_68 * (3.0 * place).cos();
        let angle = TAU * hz * i as f64 / rate_hz;
        c += f64::from(*y) * window * angle.cos();
        s += f64::from(*y) * window * angle.sin();
        sum += window;
    }
    2.0 * c.hypot(s) / sum
}

pub fn rms(x: &[f32]) -> f64 {
    (x.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / x.len() as f64).sqrt()
}

pub fn peak(x: &[f32]) -> f64 {
    x.iter().fold(0.0, |a, x| a.max(f64::from(x.abs())))
}
