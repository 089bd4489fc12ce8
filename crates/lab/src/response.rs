//! What a filter lets through, by theory.

use zolvik_patch::document::{Filter, FilterType};
use zolvik_patch::filter::{
    FORMANT_GAINS, PEAK_GAIN, band_gain, comb_feedback, dampings, formant_damping, formants,
};

/// A complex number.
type C = rustfft::num_complex::Complex<f64>;

/// Gain of a filter at a frequency while its cutoff stands still, both in hertz: the analog prototype, which the engine comes near at
/// every rate. The rate sets the highest cutoff and the shortest comb. Drive is left out.
pub fn gain(filter: &Filter, cutoff_hz: f64, hz: f64, rate_hz: f64) -> f64 {
    let cutoff_hz = cutoff_hz.clamp(10.0, 0.46 * rate_hz);
    let wet = match filter.response {
        FilterType::CombPlus | FilterType::CombMinus => comb(filter, cutoff_hz, hz, rate_hz),
        FilterType::Vowel => {
            let k = formant_damping(filter.resonance);
            formants(filter.vowel)
                .iter()
                .zip(FORMANT_GAINS)
                .map(|(times, gain)| band(k, hz / (cutoff_hz * times)) * gain)
                .sum()
        }
        _ => poles(filter, hz / cutoff_hz),
    };
    (C::new(1.0 - filter.mix, 0.0) + wet * filter.mix).norm()
}

fn below(damping: f64, w: f64) -> C {
    C::new(1.0 - w * w, damping * w)
}

fn band(damping: f64, w: f64) -> C {
    C::new(0.0, damping * w) / below(damping, w)
}

fn poles(filter: &Filter, w: f64) -> C {
    let stage = |k: f64| match filter.response {
        FilterType::High => C::new(-w * w, 0.0) / below(k, w),
        FilterType::Band => band(k, w) * (band_gain(filter.resonance) / k),
        FilterType::Notch => C::new(1.0, 0.0) - band(k, w),
        FilterType::Peak => C::new(1.0, 0.0) + band(k, w) * (PEAK_GAIN - 1.0),
        _ => C::new(1.0, 0.0) / below(k, w),
    };
    let [first, second] = dampings(filter.response, filter.slope, filter.resonance);
    match filter.slope {
        zolvik_patch::document::Slope::Db12 => stage(first),
        zolvik_patch::document::Slope::Db24 => stage(first) * stage(second),
    }
}

fn comb(filter: &Filter, cutoff_hz: f64, hz: f64, rate_hz: f64) -> C {
    let back = comb_feedback(filter.resonance);
    let (sign, periods) = match filter.response {
        FilterType::CombMinus => (-1.0, 0.5),
        _ => (1.0, 1.0),
    };
    let delay_s = (periods / cutoff_hz).max(1.0 / rate_hz);
    let late = C::from_polar(back * sign, -std::f64::consts::TAU * hz * delay_s);
    C::new((1.0 - back * back).sqrt(), 0.0) / (C::new(1.0, 0.0) - late)
}
