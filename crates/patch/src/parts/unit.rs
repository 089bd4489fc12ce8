//! One unit: something with an envelope that sounds or shapes.

use crate::ids::UnitId;
use crate::kinds::operator::Operator;
use crate::kinds::{KindName, UnitKind};
use crate::params::param::{ChoiceId, ParamId, Quantity as Q, When};
use crate::params::part::{Number, Part, part};
use crate::params::section::SectionId as S;
use crate::parts::envelope::Envelope;
use crate::parts::look::look;
use crate::parts::sound::{OwnSound, Sound};
use crate::parts::wave::{Shape, Wave};

part! {
    /// One unit: something with an envelope that sounds or shapes.
    pub struct Unit: Unit "unit" in "" {
        also {
            /// Stable number.
            id: UnitId = UnitId(1),
            /// The user's name for it, 1 to 40 characters.
            name: String = String::new(),
            /// Whether it takes part.
            on: bool = true,
            /// What it is.
            kind: UnitKind = KindName::Operator.make(),
            /// Its own course in time.
            envelope: Envelope = Envelope::default(),
        }
        values {
            VELOCITY velocity: f64 = 0.7, 0.0..1.0, look("Velocity", Q::Share, S::Response).step(0.05, 0.01).still(),
                "How far striking softly lowers the output: 0 % not at all, 100 % down to silence.";
            #[serde(default)]
            VELOCITY_TIMES velocity_times: f64 = 0.0, -1.0..1.0, look("Velocity to times", Q::Bipolar, S::Response).step(0.05, 0.01).still(),
                "How far striking hard shortens the envelope: +100 % from four times as long to a quarter.";
            #[serde(default)]
            KEY_LEVEL_DB key_level_db: f64 = 0.0, -12.0..12.0, look("Key to level", Q::Gain, S::Response).step(0.5, 0.1).decimals(1).still().when(When::Source),
                "Change of its output with each octave above C4; below C4 the other way. On a modulator, of its index.";
            #[serde(default)]
            KEY_TIMES key_times: f64 = 0.0, -1.0..1.0, look("Key to times", Q::Bipolar, S::Response).step(0.05, 0.01).still(),
                "How far higher keys shorten the envelope: +100 % halves its times with each octave above C4.";
            #[serde(default)]
            COPIES copies: u8 = 0, 0..16, look("Unison voices", Q::Copies, S::Copies).step(1.0, 1.0).still().when(When::Source),
                "How many unison voices it has in a note: as many as the patch, or a number of its own. One keeps exact pitch and the middle.";
            #[serde(default = "whole_share")]
            DETUNE_SHARE detune_share: f64 = 1.0, 0.0..2.0, look("Of detune", Q::Share, S::Copies).step(0.05, 0.01).unmoved().when(When::Source),
                "How much of the voice's detune its copies have.";
            #[serde(default = "whole_share")]
            SPREAD_SHARE spread_share: f64 = 1.0, 0.0..1.0, look("Of spread", Q::Share, S::Copies).step(0.05, 0.01).unmoved().when(When::Source),
                "How much of the voice's spread its copies have.";
            #[serde(default = "whole_share")]
            DRIFT_SHARE drift_share: f64 = 1.0, 0.0..2.0, look("Of drift", Q::Share, S::Copies).step(0.05, 0.01).unmoved().when(When::Source),
                "How much of the voice's drift it has.";
        }
    }
}

fn whole_share() -> f64 {
    1.0
}

impl Unit {
    /// A new operator: a sine at the key's pitch, held while the key is held.
    pub fn operator(id: UnitId) -> Self {
        Unit::new(id, KindName::Operator)
    }

    /// A new unit of a kind.
    pub fn new(id: UnitId, kind: KindName) -> Self {
        let mut envelope = Envelope::default();
        if kind == KindName::Sample {
            // a recording has its own attack; this one only ends it
            for point in envelope.points.iter_mut().take(2) {
                (point.time_s, point.level) = (0.0, 1.0);
            }
        }
        let plain = Unit::default();
        Unit {
            id,
            name: format!("{} {}", kind.label(), id.0),
            kind: kind.make(),
            envelope,
            // what goes through a level strip has had its own
            velocity: match kind {
                KindName::Level => 0.0,
                _ => plain.velocity,
            },
            ..plain
        }
    }

    /// The value of one of its parameters, its kind's or its envelope's; none if it has none such.
    pub fn value(&self, id: ParamId) -> Option<f64> {
        self.get(id)
            .or_else(|| self.kind.part().get(id))
            .or_else(|| self.envelope.get(id))
    }

    /// The place of the same, for writing.
    pub fn value_slot(&mut self, id: ParamId) -> Option<&mut dyn Number> {
        if self.get(id).is_some() {
            return self.slot(id);
        }
        if self.envelope.get(id).is_some() {
            return self.envelope.slot(id);
        }
        self.kind.part_mut().slot(id)
    }

    /// Whether a value or choice has any bearing on how it sounds now.
    pub fn is(&self, when: When) -> bool {
        match when {
            When::Always | When::Chosen(..) => when.chosen(|id| self.chosen_of(id)) == Some(true),
            When::Scanned => self.oscillator().is_some_and(|o| o.wave.is_scanned()),
            When::Pulse => self
                .oscillator()
                .is_some_and(|o| o.wave == Wave::Shape(Shape::Pulse)),
            When::Source => self.kind.name().is_source(),
        }
    }

    /// What it has chosen; none if it has no such choice.
    pub fn chosen_of(&self, id: ChoiceId) -> Option<usize> {
        self.kind.part().chosen(id)
    }

    /// The recording it plays, if that was brought in.
    pub fn own_sound(&self) -> Option<&OwnSound> {
        match &self.kind {
            UnitKind::Sample(sample) => match &sample.sound {
                Sound::Own(own) => Some(own),
                Sound::Ready(_) => None,
            },
            _ => None,
        }
    }

    /// Its tuning and wave, if it is an operator.
    pub fn oscillator(&self) -> Option<&Operator> {
        match &self.kind {
            UnitKind::Operator(operator) => Some(operator),
            _ => None,
        }
    }

    /// Its tuning and wave, for changing, if it is an operator.
    pub fn oscillator_mut(&mut self) -> Option<&mut Operator> {
        match &mut self.kind {
            UnitKind::Operator(operator) => Some(operator),
            _ => None,
        }
    }
}
