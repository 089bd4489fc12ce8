//! What a hand has hold of, by itself: it is seen at once, all else when there is time.

use serde::{Deserialize, Serialize};
use zolvik_layout::handles::{Handle, handles};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{EffectId, SourceId, UnitId};
use zolvik_patch::hearing::Listening;

use super::envelope::envelope;
use super::finish::{EffectView, drawn, effect_view};
use super::movement::{ShapeView, lfo_shape};
use super::playing::{PhraseView, phrase};
use super::value::{ValueView, shown_value};
use crate::inspect::{WaveView, unit_wave};

zolvik_json::kind_read_in_field!(Piece, "of");

/// What a hand has hold of.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "of"))]
pub enum Piece {
    /// A value.
    Value {
        /// Which.
        address: Address,
    },
    /// The points of an envelope.
    Handles {
        /// Whose.
        unit: UnitId,
    },
    /// A drawn cycle.
    Shape {
        /// Of which source of movement, or effect.
        source: SourceId,
    },
    /// An effect with its curve.
    Effect {
        /// Which.
        effect: EffectId,
    },
    /// The bars of a wave.
    Wave {
        /// Whose.
        unit: UnitId,
    },
    /// The notes of the phrase.
    Phrase {},
}

/// What is seen of it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "of")]
pub enum PieceView {
    Value {
        value: Box<ValueView>,
    },
    Handles {
        unit: UnitId,
        handles: Vec<Handle>,
    },
    Shape {
        source: SourceId,
        shape: Box<ShapeView>,
    },
    Effect {
        effect: Box<EffectView>,
    },
    Wave {
        unit: UnitId,
        wave: Box<WaveView>,
    },
    Phrase {
        phrase: Box<PhraseView>,
    },
}

/// The piece as it is shown, and the values beside it that go with it; nothing of what is gone.
pub(crate) fn seen(patch: &Patch, listening: &Listening, on: Piece) -> Vec<PieceView> {
    let value = |value| PieceView::Value {
        value: Box::new(value),
    };
    match on {
        Piece::Value { address } => shown_value(patch, address).map(value).into_iter().collect(),
        Piece::Handles { unit } => {
            let Some(own) = patch.envelope(unit) else {
                return vec![];
            };
            let points = envelope(patch, unit, own).points;
            let values = points.into_iter().flat_map(|point| point.values);
            let handles = handles(patch, unit);
            std::iter::once(PieceView::Handles { unit, handles })
                .chain(values.map(value))
                .collect()
        }
        Piece::Shape { source } => {
            let of_source = || lfo_shape(patch, patch.source(source)?);
            let of_effect = || drawn(patch, patch.effect(EffectId(source.0))?);
            let Some(shape) = of_source().or_else(of_effect) else {
                return vec![];
            };
            let values = shape.values.iter().flatten().cloned().map(value);
            let values: Vec<PieceView> = values.collect();
            let shape = Box::new(shape);
            std::iter::once(PieceView::Shape { source, shape })
                .chain(values)
                .collect()
        }
        Piece::Effect { effect } => {
            let Some(own) = patch.effect(effect) else {
                return vec![];
            };
            let view = effect_view(patch, listening, own);
            let values = view.bands.iter().flat_map(|band| &band.values);
            let values: Vec<PieceView> = values.cloned().map(value).collect();
            let effect = Box::new(view);
            std::iter::once(PieceView::Effect { effect })
                .chain(values)
                .collect()
        }
        Piece::Wave { unit } => {
            let wave = unit_wave(patch, unit).map(Box::new);
            let wave = wave.map(|wave| PieceView::Wave { unit, wave });
            wave.into_iter().collect()
        }
        Piece::Phrase {} => {
            let phrase = phrase(patch).map(Box::new);
            let phrase = phrase.map(|phrase| PieceView::Phrase { phrase });
            phrase.into_iter().collect()
        }
    }
}
