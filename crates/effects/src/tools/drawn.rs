//! What is drawn: points from place 0 to place 1 with curved segments between.

/// A point and the segment that leads to it.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Point {
    /// Place, 0 to 1.
    pub at: f32,
    /// Level, 0 to 1.
    pub level: f32,
    /// Curve of the segment to this point, -1 to 1.
    pub curve: f32,
}

/// The level at a place.
pub fn level(points: &[Point], at: f32) -> f32 {
    let after = points.iter().position(|p| p.at >= at);
    let (from, to) = match after {
        Some(0) | None => {
            let end = if after.is_none() {
                points.last()
            } else {
                points.first()
            };
            return end.map_or(0.0, |p| p.level);
        }
        Some(n) => (points[n - 1], points[n]),
    };
    let way = to.at - from.at;
    if way <= 0.0 {
        return to.level;
    }
    let share = (at - from.at) / way;
    from.level + (to.level - from.level) * bent(share, to.curve)
}

/// A share of a way, bent: below zero it starts slowly, above zero it starts fast.
fn bent(share: f32, curve: f32) -> f32 {
    match curve {
        c if c > 0.0 => 1.0 - libm::powf(1.0 - share, 1.0 + 4.0 * c),
        c if c < 0.0 => libm::powf(share, 1.0 - 4.0 * c),
        _ => share,
    }
}
