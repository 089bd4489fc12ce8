//! A scale loaded into the patch: which frequency each key has.

use serde::{Deserialize, Serialize};

use crate::error::PatchError;

/// Most degrees of a scale.
pub const MAX_DEGREES: usize = 1024;
/// Largest distance of a degree from the first, in cents, either way: beyond the range of hearing.
pub const MAX_CENTS: f64 = 14_400.0;

/// A scale and how it lies on the keys.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Scale {
    /// Its name or description, 1 to 80 characters.
    pub name: String,
    /// Cents above the first degree, which is 0 and not listed; the last is where the scale repeats.
    pub cents: Vec<f64>,
    /// How it lies on the keys.
    #[serde(default)]
    pub map: KeyMap,
}

/// Which key plays which degree.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct KeyMap {
    /// First key that sounds.
    pub first_key: u8,
    /// Last key that sounds.
    pub last_key: u8,
    /// Key of the pattern's first entry.
    pub middle_key: u8,
    /// Key whose frequency is given.
    pub reference_key: u8,
    /// Its frequency, in hertz.
    pub reference_hz: f64,
    /// Degree by which the pattern moves up when it repeats.
    pub octave_degree: u16,
    /// Degree of each key of the pattern, none for silent keys; empty for one degree a key.
    pub degrees: Vec<Option<u16>>,
}

impl Default for KeyMap {
    fn default() -> Self {
        KeyMap {
            first_key: 0,
            last_key: 127,
            middle_key: 60,
            reference_key: 69,
            reference_hz: 440.0,
            octave_degree: 0,
            degrees: vec![],
        }
    }
}

impl Scale {
    /// Frequency of a key in hertz; none if the map leaves it silent.
    ///
    /// The reference key has the reference frequency; every other key lies by the difference of the two
    /// degrees above or below it.
    pub fn key_hz(&self, key: u8) -> Option<f64> {
        let map = &self.map;
        if !(map.first_key..=map.last_key).contains(&key) {
            return None;
        }
        let reference = self.key_cents(map.reference_key)?;
        let cents = self.key_cents(key)? - reference;
        Some(map.reference_hz * libm::exp2(cents / 1200.0))
    }

    /// Cents of a key above the middle key's degree 0.
    fn key_cents(&self, key: u8) -> Option<f64> {
        let map = &self.map;
        let distance = i32::from(key) - i32::from(map.middle_key);
        if map.degrees.is_empty() {
            return Some(self.degree_cents(distance));
        }
        let size = map.degrees.len() as i32;
        let degree = map.degrees[distance.rem_euclid(size) as usize]?;
        let octave = match map.octave_degree {
            0 => self.cents.len() as i32,
            given => i32::from(given),
        };
        let rise = self.degree_cents(octave) * f64::from(distance.div_euclid(size));
        Some(self.degree_cents(degree.into()) + rise)
    }

    /// Cents of a degree of any octave.
    fn degree_cents(&self, degree: i32) -> f64 {
        let size = self.cents.len() as i32;
        let octave_cents = self.cents.last().copied().unwrap_or(1200.0);
        let inside = match degree.rem_euclid(size) {
            0 => 0.0,
            n => self.cents[n as usize - 1],
        };
        inside + octave_cents * f64::from(degree.div_euclid(size))
    }

    /// Checks names, counts and numbers.
    ///
    /// # Errors
    /// The first thing found wrong, with its path in the patch file.
    pub fn check(&self) -> Result<(), PatchError> {
        let shape = |path: &str, problem: &str| {
            Err(PatchError::Shape {
                path: format!("scale.{path}"),
                problem: problem.into(),
            })
        };
        let range = |path: String, min: f64, max: f64, actual: f64| {
            if (min..=max).contains(&actual) {
                return Ok(());
            }
            Err(PatchError::Range {
                path,
                min,
                max,
                actual,
            })
        };
        if self.name.trim().is_empty() {
            return shape("name", "is empty; give it a name");
        }
        if self.name.chars().count() > crate::params::limits::MAX_NAME {
            return shape("name", "is longer than 80 characters");
        }
        if self.cents.is_empty() || self.cents.len() > MAX_DEGREES {
            return shape("cents", "needs 1 to 1024 degrees");
        }
        for (i, cents) in self.cents.iter().enumerate() {
            range(format!("scale.cents[{i}]"), -MAX_CENTS, MAX_CENTS, *cents)?;
        }
        let map = &self.map;
        for (name, key) in [
            ("first_key", map.first_key),
            ("last_key", map.last_key),
            ("middle_key", map.middle_key),
            ("reference_key", map.reference_key),
        ] {
            range(format!("scale.map.{name}"), 0.0, 127.0, key.into())?;
        }
        range(
            "scale.map.reference_hz".into(),
            1.0,
            20_000.0,
            map.reference_hz,
        )?;
        if map.degrees.len() > 128 {
            return shape("map.degrees", "has more than 128 entries");
        }
        if self.key_cents(map.reference_key).is_none() {
            return shape(
                "map.reference_key",
                "is a silent key; choose one that sounds",
            );
        }
        Ok(())
    }
}
