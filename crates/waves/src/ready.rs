//! The recordings that come with the application: short attacks and long textures of an imagined glasshouse at night, synthesized
//! here from sines, noise and simple resonances. Nothing is taken from anywhere.

use std::f64::consts::TAU;
use std::sync::{Arc, Mutex};

use zolvik_patch::sound::ReadySound;

use crate::clip::Clip;

/// Sample rate of all of them, in hertz.
pub const RATE_HZ: f64 = 48_000.0;
/// Loudest sample of all of them.
const PEAK: f64 = 0.8;

/// The clip of a recording, synthesized at most once.
pub fn clip(ready: ReadySound) -> Arc<Clip> {
    static MADE: Mutex<Vec<(ReadySound, Arc<Clip>)>> = Mutex::new(Vec::new());
    let mut made = MADE.lock().unwrap_or_else(|e| e.into_inner());
    if let Some((_, clip)) = made.iter().find(|(of, _)| *of == ready) {
        return clip.clone();
    }
    let clip = Arc::new(synthesize(ready));
    made.push((ready, clip.clone()));
    clip
}

fn synthesize(ready: ReadySound) -> Clip {
    let mut mix = Mix::new(ready as u64 + 1);
    use ReadySound as R;
    match ready {
        R::Twig => twig(&mut mix),
        R::GlassTap => glass_tap(&mut mix),
        R::Pebble => pebble(&mut mix),
        R::Thump => thump(&mut mix),
        R::WetLeaf => wet_leaf(&mut mix),
        R::Breath => breath(&mut mix),
        R::Latch => latch(&mut mix),
        R::SeedPod => seed_pod(&mut mix),
        R::Drip => drip(&mut mix),
        R::Pluck => pluck(&mut mix),
        R::BowScrape => bow_scrape(&mut mix),
        R::CopperTick => copper_tick(&mut mix),
        R::RainOnGlass => rain_on_glass(&mut mix),
        R::NightWind => night_wind(&mut mix),
        R::Crickets => crickets(&mut mix),
        R::BoilerHum => boiler_hum(&mut mix),
        R::WaterPipes => water_pipes(&mut mix),
        R::LeafRustle => leaf_rustle(&mut mix),
        R::FarChoir => far_choir(&mut mix),
        R::IceRing => ice_ring(&mut mix),
    }
    mix.finish(ready.is_attack())
}

fn twig(mix: &mut Mix) {
    mix.length(0.12);
    mix.burst(0.0, 0.9, 0.002, (1_800.0, 9_000.0));
    mix.burst(0.006, 0.7, 0.004, (900.0, 5_000.0));
    mix.burst(0.013, 0.4, 0.012, (600.0, 3_500.0));
}

fn glass_tap(mix: &mut Mix) {
    mix.length(0.5);
    mix.burst(0.0, 0.3, 0.001, (3_000.0, 12_000.0));
    for (hz, level, decay_s) in [
        (2_130.0, 1.0, 0.09),
        (3_484.0, 0.7, 0.06),
        (5_870.0, 0.5, 0.03),
        (8_212.0, 0.3, 0.015),
    ] {
        mix.ring(0.0, hz, level, decay_s, 0.0);
    }
}

fn pebble(mix: &mut Mix) {
    mix.length(0.08);
    mix.burst(0.0, 1.0, 0.001, (1_200.0, 7_000.0));
    mix.ring(0.0, 1_720.0, 0.8, 0.006, 0.0);
    mix.ring(0.0, 2_910.0, 0.5, 0.004, 0.0);
}

fn thump(mix: &mut Mix) {
    mix.length(0.35);
    mix.ring(0.0, 58.0, 1.0, 0.09, 1.1);
    mix.burst(0.0, 0.25, 0.006, (80.0, 700.0));
}

fn wet_leaf(mix: &mut Mix) {
    mix.length(0.25);
    mix.burst(0.0, 0.8, 0.018, (700.0, 4_200.0));
    mix.burst(0.022, 0.5, 0.03, (300.0, 1_600.0));
}

fn breath(mix: &mut Mix) {
    mix.length(0.45);
    mix.swell(0.0, 0.12, 0.3, (900.0, 6_500.0), 1.0);
}

fn latch(mix: &mut Mix) {
    mix.length(0.3);
    for (at_s, level) in [(0.0, 0.7), (0.041, 1.0)] {
        mix.burst(at_s, level * 0.5, 0.001, (1_500.0, 8_000.0));
        for (hz, decay_s) in [(846.0, 0.03), (1_391.0, 0.022), (3_115.0, 0.011)] {
            mix.ring(at_s, hz, level * 0.5, decay_s, 0.0);
        }
    }
}

fn seed_pod(mix: &mut Mix) {
    mix.length(0.3);
    for n in 0..14 {
        let at_s = 0.2 * libm::pow(f64::from(n) / 14.0, 1.4);
        let level = 1.0 - f64::from(n) * 0.06;
        mix.burst(at_s, level, 0.0025, (2_500.0, 9_000.0));
    }
}

fn drip(mix: &mut Mix) {
    mix.length(0.22);
    mix.burst(0.0, 0.12, 0.001, (2_000.0, 8_000.0));
    mix.ring(0.004, 1_040.0, 1.0, 0.035, -0.9);
}

fn pluck(mix: &mut Mix) {
    mix.length(0.6);
    mix.string(261.625_565, 0.22, 0.5);
}

fn bow_scrape(mix: &mut Mix) {
    mix.length(0.4);
    mix.swell(0.0, 0.05, 0.25, (1_400.0, 4_800.0), 1.0);
    mix.rough(190.0, 0.7);
}

fn copper_tick(mix: &mut Mix) {
    mix.length(0.25);
    for (hz, level) in [
        (1_205.0, 0.8),
        (1_913.0, 1.0),
        (4_377.0, 0.7),
        (6_061.0, 0.5),
    ] {
        mix.ring(0.0, hz, level, 0.028, 0.0);
    }
    mix.burst(0.0, 0.5, 0.0007, (4_000.0, 14_000.0));
}

fn rain_on_glass(mix: &mut Mix) {
    mix.length(4.0);
    mix.steady((1_500.0, 9_000.0), 0.12);
    mix.scatter(420, |mix, at_s, chance| {
        let hz = 1_800.0 + 5_200.0 * chance;
        mix.ring(at_s, hz, 0.25 + 0.5 * chance, 0.004, -0.3);
    });
}

fn night_wind(mix: &mut Mix) {
    mix.length(5.0);
    mix.steady((160.0, 900.0), 0.8);
    mix.waver(&[(0.2, 0.5), (0.6, 0.3)]);
}

fn crickets(mix: &mut Mix) {
    mix.length(4.0);
    for (hz, every_s, first_s) in [(4_310.0, 0.5, 0.02), (4_720.0, 0.8, 0.21)] {
        let mut at_s: f64 = first_s;
        while at_s < 3.9 {
            for pulse in 0..5 {
                mix.chirp(at_s + f64::from(pulse) * 0.026, hz, 0.4, 0.014);
            }
            at_s += every_s;
        }
    }
    mix.steady((300.0, 1_200.0), 0.03);
}

fn boiler_hum(mix: &mut Mix) {
    mix.length(4.0);
    for (n, level) in [
        (1.0, 1.0),
        (2.0, 0.5),
        (3.0, 0.35),
        (5.0, 0.12),
        (8.0, 0.05),
    ] {
        mix.tone(55.0 * n, level);
    }
    mix.steady((90.0, 400.0), 0.15);
    mix.waver(&[(0.25, 0.12), (1.5, 0.06)]);
}

fn water_pipes(mix: &mut Mix) {
    mix.length(4.0);
    mix.steady((400.0, 2_600.0), 0.25);
    mix.scatter(90, |mix, at_s, chance| {
        let hz = 320.0 + 900.0 * chance;
        mix.ring(at_s, hz, 0.6, 0.03, -0.5);
    });
}

fn leaf_rustle(mix: &mut Mix) {
    mix.length(4.0);
    mix.scatter(260, |mix, at_s, chance| {
        mix.burst(
            at_s,
            0.2 + 0.5 * chance,
            0.01 + 0.02 * chance,
            (1_200.0, 7_500.0),
        );
    });
}

fn far_choir(mix: &mut Mix) {
    mix.length(5.0);
    for n in 1..=9 {
        let level = 1.0 / libm::pow(f64::from(n), 1.3);
        for cents in [-7.0, 0.0, 6.0] {
            mix.tone(
                261.625_565 * f64::from(n) * libm::exp2(cents / 1200.0),
                level,
            );
        }
    }
    mix.steady((500.0, 2_400.0), 0.2);
    mix.waver(&[(0.4, 0.2), (1.0, 0.1)]);
}

fn ice_ring(mix: &mut Mix) {
    mix.length(5.0);
    for (hz, level) in [
        (523.25, 0.7),
        (1_318.5, 0.6),
        (2_489.0, 0.5),
        (4_186.0, 0.25),
    ] {
        mix.tone(hz, level);
        mix.tone(hz * 1.003, level * 0.7);
    }
    mix.scatter(60, |mix, at_s, chance| {
        mix.ring(at_s, 2_600.0 + 4_000.0 * chance, 0.5, 0.05, 0.0);
    });
}

/// Where a recording is put together.
struct Mix {
    out: Vec<f64>,
    chance: u64,
}

impl Mix {
    fn new(seed: u64) -> Self {
        Mix {
            out: vec![],
            chance: seed.wrapping_mul(0x9E37_79B9_7F4A_7C15),
        }
    }

    /// A number from 0 to 1 (SplitMix64; Steele, Lea, Flood, 2014).
    fn share(&mut self) -> f64 {
        self.chance = self.chance.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let z = (self.chance ^ (self.chance >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64
    }

    fn length(&mut self, length_s: f64) {
        self.out = vec![0.0; (length_s * RATE_HZ) as usize];
    }

    /// Noise between two frequencies, by a low-pass and a high-pass of one pole each, twice; about as loud as level 1.
    fn noise(&mut self, count: usize, (low_hz, high_hz): (f64, f64)) -> Vec<f64> {
        let pole = |hz: f64| 1.0 - libm::exp(-TAU * hz / RATE_HZ);
        let (up, down) = (pole(high_hz), pole(low_hz));
        let mut list: Vec<f64> = (0..count).map(|_| 2.0 * self.share() - 1.0).collect();
        for _ in 0..2 {
            let (mut smooth, mut slow) = (0.0, 0.0);
            for x in &mut list {
                smooth += (*x - smooth) * up;
                slow += (smooth - slow) * down;
                *x = smooth - slow;
            }
        }
        let power: f64 = list.iter().map(|x| x * x).sum::<f64>() / count.max(1) as f64;
        let gain = 0.4 / power.max(1e-12).sqrt();
        list.iter().map(|x| x * gain).collect()
    }

    fn add(&mut self, at_s: f64, list: impl Iterator<Item = f64>) {
        let from = ((at_s * RATE_HZ) as usize).min(self.out.len());
        for (out, x) in self.out[from..].iter_mut().zip(list) {
            *out += x;
        }
    }

    /// Noise that falls off.
    fn burst(&mut self, at_s: f64, level: f64, decay_s: f64, band: (f64, f64)) {
        let count = (decay_s * 9.0 * RATE_HZ) as usize;
        let noise = self.noise(count, band);
        let fall = |i: usize| libm::exp(-(i as f64) / (decay_s * RATE_HZ));
        self.add(
            at_s,
            noise.iter().enumerate().map(|(i, x)| x * level * fall(i)),
        );
    }

    /// Noise that comes and goes.
    fn swell(&mut self, at_s: f64, rise_s: f64, fall_s: f64, band: (f64, f64), level: f64) {
        let count = ((rise_s + fall_s) * RATE_HZ) as usize;
        let noise = self.noise(count, band);
        let shape = |i: usize| {
            let t = i as f64 / RATE_HZ;
            let place = if t < rise_s {
                t / rise_s
            } else {
                1.0 - (t - rise_s) / fall_s
            };
            0.5 - 0.5 * libm::cos(0.5 * TAU * place.clamp(0.0, 1.0))
        };
        self.add(
            at_s,
            noise.iter().enumerate().map(|(i, x)| x * level * shape(i)),
        );
    }

    /// A sine that falls off; `bend` octaves higher (or lower) at its start.
    fn ring(&mut self, at_s: f64, hz: f64, level: f64, decay_s: f64, bend: f64) {
        let count = (decay_s * 9.0 * RATE_HZ) as usize;
        let mut turns = 0.0;
        let list: Vec<f64> = (0..count)
            .map(|i| {
                let t = i as f64 / (decay_s * RATE_HZ);
                let now_hz = hz * libm::exp2(bend * libm::exp(-3.0 * t));
                turns += now_hz / RATE_HZ;
                // half a millisecond to begin, so that it does not click by itself
                let begin = (i as f64 / (0.0005 * RATE_HZ)).min(1.0);
                level * begin * libm::exp(-t) * libm::sin(TAU * turns)
            })
            .collect();
        self.add(at_s, list.into_iter());
    }

    /// A short tone with soft ends.
    fn chirp(&mut self, at_s: f64, hz: f64, level: f64, length_s: f64) {
        let count = (length_s * RATE_HZ) as usize;
        let list = (0..count).map(move |i| {
            let place = i as f64 / count as f64;
            let shape = 0.5 - 0.5 * libm::cos(TAU * place);
            level * shape * libm::sin(TAU * hz * i as f64 / RATE_HZ)
        });
        self.add(at_s, list);
    }

    /// A tone over the whole length.
    fn tone(&mut self, hz: f64, level: f64) {
        let start = self.share();
        let count = self.out.len();
        // a pointer turned by the same angle again and again
        let angle = TAU * hz / RATE_HZ;
        let (s, c) = (libm::sin(angle), libm::cos(angle));
        let (mut x, mut y) = (libm::cos(TAU * start), libm::sin(TAU * start));
        let list = (0..count).map(move |_| {
            let out = level * y;
            (x, y) = (x * c - y * s, x * s + y * c);
            out
        });
        self.add(0.0, list);
    }

    /// Noise over the whole length.
    fn steady(&mut self, band: (f64, f64), level: f64) {
        let count = self.out.len();
        let noise = self.noise(count, band);
        self.add(0.0, noise.into_iter().map(|x| x * level));
    }

    /// A plucked string (Karplus and Strong, "Digital Synthesis of Plucked-String and Drum Timbres", 1983).
    fn string(&mut self, hz: f64, decay_s: f64, dark: f64) {
        let period = (RATE_HZ / hz - 0.5 * dark).max(2.0);
        let whole = period as usize;
        let mut line = self.noise(whole + 1, (100.0, 6_000.0));
        let loss = libm::exp(-1.0 / (hz * decay_s));
        let (share, count) = (period - whole as f64, self.out.len());
        let mut last = 0.0;
        let list: Vec<f64> = (0..count)
            .map(|i| {
                let at = i % (whole + 1);
                let (now, next) = (line[at], line[(at + 1) % (whole + 1)]);
                let read = next * (1.0 - share) + now * share;
                let out = read * (1.0 - 0.5 * dark) + last * 0.5 * dark;
                last = read;
                line[at] = out * loss;
                out
            })
            .collect();
        self.add(0.0, list.into_iter());
    }

    /// Many small events at chance times.
    fn scatter(&mut self, count: usize, mut event: impl FnMut(&mut Mix, f64, f64)) {
        let length_s = self.out.len() as f64 / RATE_HZ;
        for _ in 0..count {
            let (at_s, chance) = (self.share() * length_s, self.share());
            event(self, at_s, chance);
        }
    }

    /// Makes all of it rise and fall, whole numbers of times over the length.
    fn waver(&mut self, waves: &[(f64, f64)]) {
        let length = self.out.len() as f64;
        for (hz, depth) in waves {
            let times = libm::round(hz * length / RATE_HZ).max(1.0);
            for (i, x) in self.out.iter_mut().enumerate() {
                *x *= 1.0 - depth * (0.5 - 0.5 * libm::cos(TAU * times * i as f64 / length));
            }
        }
    }

    /// Breaks all of it up at a pitch.
    fn rough(&mut self, hz: f64, depth: f64) {
        for (i, x) in self.out.iter_mut().enumerate() {
            let place = (hz * i as f64 / RATE_HZ).fract();
            *x *= 1.0 - depth * place;
        }
    }

    fn finish(mut self, is_attack: bool) -> Clip {
        // attacks end in silence; textures are cut by their loop
        if is_attack {
            let fade = (0.01 * RATE_HZ) as usize;
            let count = self.out.len();
            for (i, x) in self.out.iter_mut().rev().take(fade.min(count)).enumerate() {
                *x *= i as f64 / fade as f64;
            }
        }
        let peak = self.out.iter().fold(1e-9f64, |most, x| most.max(x.abs()));
        Clip {
            samples: self.out.iter().map(|x| (x * PEAK / peak) as f32).collect(),
            rate_hz: RATE_HZ,
        }
    }
}
