//! Tables, waves and recordings.

use super::bounds::{MAX_UNIT_NAME, SHORTEST_STRETCH, at_most, named};
use crate::error::PatchError;
use crate::kinds::UnitKind;
use crate::parts::sound::Sound;
use crate::parts::wave::{MAX_BARS, MAX_CYCLES, MAX_HARMONICS, MAX_TABLE_POINTS, MAX_TABLES, Wave};
use crate::patch::Patch;
use std::collections::HashSet;

pub(super) fn tables(patch: &Patch) -> Result<(), PatchError> {
    at_most("tables", MAX_TABLES, patch.tables.len())?;
    let mut seen = HashSet::new();
    for (i, table) in patch.tables.iter().enumerate() {
        if !seen.insert(table.id) {
            return Err(PatchError::Twice {
                path: format!("tables[{i}].id"),
                actual: table.id.0,
            });
        }
        named(&format!("tables[{i}].name"), &table.name, MAX_UNIT_NAME)?;
        if !(1..=MAX_HARMONICS).contains(&table.harmonics.into()) {
            return Err(PatchError::Range {
                path: format!("tables[{i}].harmonics"),
                min: 1.0,
                max: MAX_HARMONICS as f64,
                actual: table.harmonics.into(),
            });
        }
        let (points, path) = (table.cycles.0.len(), format!("tables[{i}].cycles"));
        if points == 0 || !points.is_multiple_of(2 * usize::from(table.harmonics)) {
            return Err(PatchError::Shape {
                path,
                problem: "does not hold whole cycles; import the table again".into(),
            });
        }
        at_most(&path, MAX_CYCLES, table.cycle_count())?;
        at_most(&path, MAX_TABLE_POINTS, points / 2)?;
    }
    Ok(())
}

pub(super) fn waves(patch: &Patch) -> Result<(), PatchError> {
    for (i, unit) in patch.units.iter().enumerate() {
        let path = |rest: &str| format!("units[{i}].kind.operator.wave{rest}");
        let Some(operator) = unit.oscillator() else {
            continue;
        };
        match &operator.wave {
            Wave::Own(id) if patch.table(*id).is_none() => {
                return Err(PatchError::Shape {
                    path: path(".own"),
                    problem: format!("the patch has no table {}", id.0),
                });
            }
            Wave::Bars(bars) => {
                for (name, list) in [
                    ("amplitudes", &bars.amplitudes),
                    ("phases_turns", &bars.phases_turns),
                ] {
                    at_most(&path(&format!(".bars.{name}")), MAX_BARS, list.len())?;
                    for (n, value) in list.iter().enumerate() {
                        if !(0.0..=1.0).contains(value) {
                            return Err(PatchError::Range {
                                path: path(&format!(".bars.{name}[{n}]")),
                                min: 0.0,
                                max: 1.0,
                                actual: *value,
                            });
                        }
                    }
                }
            }
            _ => {}
        }
    }
    Ok(())
}

pub(super) fn samples(patch: &Patch) -> Result<(), PatchError> {
    for (i, unit) in patch.units.iter().enumerate() {
        let UnitKind::Sample(sample) = &unit.kind else {
            continue;
        };
        let path = |rest: &str| format!("units[{i}].kind.sample.{rest}");
        if let Sound::Own(own) = &sample.sound {
            named(&path("sound.own.name"), &own.name, MAX_UNIT_NAME)?;
            own.check(&path("sound.own"))?;
        }
        for (from, to, name) in [
            (sample.start, sample.end, "end"),
            (sample.loop_start, sample.loop_end, "loop_end"),
        ] {
            // numbers that are none are found with the ranges
            if from + SHORTEST_STRETCH > to + 1e-9 {
                return Err(PatchError::Shape {
                    path: path(name),
                    problem: "lies before its start; exchange the two".into(),
                });
            }
        }
    }
    Ok(())
}
