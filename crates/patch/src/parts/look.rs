//! How a row looks and moves, written short.

use crate::params::param::{Curve, Domain, Linked, Owner, Param, ParamId, Quantity, When};
use crate::params::section::SectionId;

/// How a row looks and moves: all that is not its name, range and default.
#[derive(Debug, Clone, Copy)]
pub struct Look {
    pub(crate) label: &'static str,
    pub(crate) quantity: Quantity,
    pub(crate) section: SectionId,
    pub(crate) curve: Curve,
    pub(crate) step: f64,
    pub(crate) fine_step: f64,
    pub(crate) decimals: usize,
    pub(crate) smoothing_s: f64,
    pub(crate) linked: Linked,
    pub(crate) when: When,
}

/// What a row says of a parameter, to begin with: an even bar, followed within 10 ms, moved for each note.
pub(crate) const fn look(label: &'static str, quantity: Quantity, section: SectionId) -> Look {
    Look {
        label,
        quantity,
        section,
        curve: Curve::Linear,
        step: 0.0,
        fine_step: 0.0,
        decimals: 0,
        smoothing_s: 0.01,
        linked: Linked::Note,
        when: When::Always,
    }
}

impl Look {
    /// Equal ratios take equal room on the bar.
    pub(crate) const fn log(self) -> Self {
        Look {
            curve: Curve::Log,
            ..self
        }
    }

    /// Equal ratios take equal room on the bar from a value on, and its low end is 0.
    pub(crate) const fn zero_or_log(self, low: f64) -> Self {
        Look {
            curve: Curve::ZeroOrLog(low),
            ..self
        }
    }

    /// More room for the low end of the bar.
    pub(crate) const fn power(self, exponent: f64) -> Self {
        Look {
            curve: Curve::Power(exponent),
            ..self
        }
    }

    /// One arrow key or wheel step, and a fine one with Shift.
    pub(crate) const fn step(self, step: f64, fine_step: f64) -> Self {
        Look {
            step,
            fine_step,
            ..self
        }
    }

    /// Digits after the point.
    pub(crate) const fn decimals(self, decimals: usize) -> Self {
        Look { decimals, ..self }
    }

    /// Stands still while a note sounds: taken up by the next one, or at once.
    pub(crate) const fn still(self) -> Self {
        Look {
            smoothing_s: 0.0,
            linked: Linked::Never,
            ..self
        }
    }

    /// Taken up by each note as it begins.
    pub(crate) const fn onset(self) -> Self {
        Look {
            smoothing_s: 0.0,
            linked: Linked::Onset,
            ..self
        }
    }

    /// Followed within so many seconds.
    pub(crate) const fn within(self, smoothing_s: f64) -> Self {
        Look {
            smoothing_s,
            ..self
        }
    }

    /// Moved for all notes alike.
    pub(crate) const fn shared(self) -> Self {
        Look {
            linked: Linked::Patch,
            ..self
        }
    }

    /// Moved by nothing.
    pub(crate) const fn unmoved(self) -> Self {
        Look {
            linked: Linked::Never,
            ..self
        }
    }

    /// Shown only then.
    pub(crate) const fn when(self, when: When) -> Self {
        Look { when, ..self }
    }

    /// The row.
    pub(crate) const fn row(
        self,
        spot: Spot,
        (min, max): (f64, f64),
        default: f64,
        help: &'static str,
    ) -> Param {
        let look = self;
        assert!(min <= default && default <= max, "default out of range");
        Param {
            id: spot.id,
            name: spot.name,
            field: spot.field,
            path: spot.path,
            owner: spot.owner,
            label: look.label,
            quantity: look.quantity,
            section: look.section,
            when: look.when,
            min,
            max,
            default,
            curve: look.curve,
            step: look.step,
            fine_step: look.fine_step,
            decimals: look.decimals,
            smoothing_s: look.smoothing_s,
            // what is spread by ratios is moved by ratios
            domain: match look.curve {
                Curve::Log | Curve::ZeroOrLog(_) => Domain::Octaves,
                _ => Domain::Plain,
            },
            // effects stand behind all notes
            linked: match (look.linked, spot.owner) {
                (Linked::Note, Owner::Effect | Owner::Chain | Owner::Band) => Linked::Patch,
                (linked, _) => linked,
            },
            help,
        }
    }
}

/// Where a row stands in file and catalogue.
pub(crate) struct Spot {
    pub(crate) id: ParamId,
    pub(crate) owner: Owner,
    pub(crate) name: &'static str,
    pub(crate) field: &'static str,
    pub(crate) path: &'static str,
}
