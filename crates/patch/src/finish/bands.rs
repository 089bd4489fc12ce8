//! Bands of an EQ where they are pointed at.

use super::kinds::{BandType, EqBand};
use crate::params::catalogue::param;

impl EqBand {
    /// A bell beside other bands: at a frequency and gain that were pointed at, or amid the widest gap between them, at rest.
    pub fn beside(bands: &[EqBand], pointed: Option<(f64, f64)>) -> Self {
        let (hz, gain_db) = pointed.unwrap_or_else(|| {
            let row = param(EqBand::HZ);
            let mut edges: Vec<f64> = bands.iter().map(|b| b.hz).collect();
            edges.extend([row.min, row.max]);
            edges.sort_by(f64::total_cmp);
            let gaps = edges
                .windows(2)
                .map(|w| (w[1] / w[0], (w[0] * w[1]).sqrt()));
            let widest = gaps.max_by(|a, b| a.0.total_cmp(&b.0));
            (widest.map_or(row.default, |(_, middle)| middle), 0.0)
        });
        let mut band = EqBand {
            q: 1.0,
            ..EqBand::at(BandType::Peak, 1000.0)
        };
        band.put(hz, gain_db);
        band
    }

    /// Puts it at a frequency and gain that were pointed at, as near as one points.
    pub fn put(&mut self, hz: f64, gain_db: f64) {
        let (across, up) = (param(EqBand::HZ), param(EqBand::GAIN_DB));
        self.hz = across.tidy(hz.clamp(across.min, across.max));
        self.gain_db = (libm::round(gain_db * 10.0) / 10.0).clamp(up.min, up.max);
    }
}
